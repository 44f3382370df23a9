import { computed, ref, watch, type ComputedRef, type Ref } from 'vue'
import { openFindings } from '../../core/check/open.ts'
import { fold, tableOf } from '../../core/design/directory.ts'
import type { Scene } from '../../core/diagram/scene.ts'
import { waysBetween } from '../../core/diagram/ways.ts'
import { dialectsOf } from '../../core/dialect/index.ts'
import { reachOf } from '../../core/rehearse/reach.ts'
import { rulebookOf } from '../../core/rehearse/rules.ts'
import { judgedAt } from '../rulings/useBrokenRulings.ts'
import { useDesign } from '../stores/design.ts'

/** What is asked of the picture: the tables that it lights up. */
export type LitBy =
  | { kind: 'names' }
  | { kind: 'findings' }
  | { kind: 'reach'; table: string }
  | { kind: 'ways'; from: string; to: string | undefined }

/** Which tables are lit up, and what that says. */
export function useLit(scene: Ref<Scene | undefined>): {
  wanted: Ref<string>
  by: Ref<LitBy>
  lit: ComputedRef<ReadonlySet<string>>
  /** What is lit up, in words; nothing where it is by names. */
  says: ComputedRef<string>
} {
  const store = useDesign()
  const wanted = ref('')
  const by = ref<LitBy>({ kind: 'names' })
  watch(wanted, (text) => {
    if (text.trim() !== '') by.value = { kind: 'names' }
  })

  const called = computed((): ReadonlySet<string> => {
    const text = fold(wanted.value.trim())
    const tables = text === '' ? [] : (scene.value?.tables ?? [])
    return new Set(tables.flatMap(({ id, name }) => (fold(name).includes(text) ? [id] : [])))
  })
  const asked = computed(() => litBy(by.value))
  function litBy(now: LitBy): ReadonlySet<string> {
    const design = store.design
    if (!design) return new Set()
    switch (now.kind) {
      case 'names':
        return called.value
      case 'findings':
        return judgedAt.value >= 0 ? new Set(openFindings(design).map(({ table }) => table)) : new Set()
      case 'reach': {
        const [dialect] = dialectsOf(design)
        if (!dialect || !tableOf(design, now.table)) return new Set()
        const { steps } = reachOf(design, rulebookOf(design, dialect), now.table)
        return new Set([now.table, ...steps.flat()])
      }
      case 'ways':
        return now.to === undefined ? new Set([now.from]) : waysBetween(design, now.from, now.to)
    }
  }
  const drawn = computed(() => new Set((scene.value?.tables ?? []).map(({ id }) => id)))
  const lit = computed(() => new Set([...asked.value].filter((id) => drawn.value.has(id))))
  const nameOf = (id: string): string => (store.design && tableOf(store.design, id)?.name) ?? ''
  const says = computed(() => sayBy(by.value))
  function sayBy(now: LitBy): string {
    switch (now.kind) {
      case 'names':
        return ''
      case 'findings':
        return 'what a finding is about'
      case 'reach':
        return `what deleting from ${nameOf(now.table)} can touch`
      case 'ways':
        return now.to === undefined
          ? `the ways from ${nameOf(now.from)}: press W at the other end`
          : `${lit.value.size === 0 ? 'no way' : 'the shortest ways'} from ${nameOf(now.from)} to ${nameOf(now.to)}`
    }
  }
  return { wanted, by, lit, says }
}
