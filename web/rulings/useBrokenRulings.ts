import { watch } from 'vue'
import { newlyBroken, sayBroken } from '../../core/rehearse/ruling.ts'
import { useDesign } from '../stores/design.ts'

/** Tells, when the draft has changed, which ruling it no longer keeps to. */
export function useBrokenRulings(): void {
  const store = useDesign()
  watch(
    () => store.draft,
    (now, was) => {
      if (!now?.rulings || !was || now.id !== was.id || now === was) return
      const [first, ...more] = newlyBroken(was, now)
      if (!first) return
      const others = more.length > 0 ? ` So are ${more.length} more.` : ''
      store.say(`Broken: the ruling “${first.ruling.says}” ${sayBroken(now, first) ?? ''}${others}`)
    }
  )
}
