import { computed, type ComputedRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import {
  ENDS,
  LINE_WORDS,
  PLAIN_LOOK,
  ROWS,
  type Look,
  type ShownPart,
  type View
} from '../../core/design/model.ts'
import type { Shown } from '../../core/diagram/drawing.ts'
import { useDesign } from '../stores/design.ts'

/** What the address says of the diagram: which view, which part of the design, and how it is drawn. */
export const ASKED = [
  'view',
  'subject',
  'near',
  'tables',
  'steps',
  'rows',
  'types',
  'ends',
  'words',
  'regions'
] as const
type Asked = Partial<Record<(typeof ASKED)[number] | 'since', string | undefined>>

/** What is drawn, as the address says it, so that it can be handed on and gone back to. */
export function useShown(): {
  shown: ComputedRef<Shown>
  /** The kept view that is looked at. */
  view: ComputedRef<View | undefined>
  /** Whether it is drawn otherwise than the view says. */
  isOtherwise: ComputedRef<boolean>
  /** The version with which the draft is compared. */
  since: ComputedRef<number | undefined>
  ask: (change: Asked) => void
  /** Looks at something else, drawn as it is by itself. */
  show: (part: Asked) => void
} {
  const store = useDesign()
  const route = useRoute()
  const router = useRouter()
  const said = (name: keyof Asked): string | undefined =>
    typeof route.query[name] === 'string' ? route.query[name] : undefined

  const view = computed(() => store.design?.views?.find(({ id }) => id === said('view')))
  const shows = computed((): ShownPart => {
    const [subject, near] = [said('subject'), said('near')]
    if (subject !== undefined) return { kind: 'subject', subject }
    if (near !== undefined) return { kind: 'near', table: near, steps: said('steps') === '2' ? 2 : 1 }
    const tables = said('tables')
    if (tables !== undefined) return { kind: 'tables', tables: tables.split(',').filter((id) => id !== '') }
    return view.value?.shows ?? { kind: 'all' }
  })
  const look = computed((): Look => {
    const base = view.value?.look ?? PLAIN_LOOK
    const flag = (name: 'types' | 'regions'): boolean => (said(name) ?? (base[name] ? 'yes' : 'no')) === 'yes'
    return {
      rows: ROWS.find((each) => each === said('rows')) ?? base.rows,
      types: flag('types'),
      ends: ENDS.find((each) => each === said('ends')) ?? base.ends,
      words: LINE_WORDS.find((each) => each === said('words')) ?? base.words,
      regions: flag('regions')
    }
  })
  const shown = computed((): Shown => ({ shows: shows.value, look: look.value }))
  const isOtherwise = computed(
    () =>
      JSON.stringify([shows.value, look.value]) !==
      JSON.stringify([view.value?.shows ?? { kind: 'all' }, view.value?.look ?? PLAIN_LOOK])
  )
  const since = computed(() => {
    const number = Number(said('since'))
    return store.versions.some((version) => version.number === number) ? number : undefined
  })
  const ask = (change: Asked): void => void router.replace({ query: { ...route.query, ...change } })
  const show = (part: Asked): void => {
    const nothing = Object.fromEntries(ASKED.map((name) => [name, undefined]))
    ask({ ...nothing, ...part })
  }
  return { shown, view, isOtherwise, since, ask, show }
}
