import type { Renewed } from '../../core/design/model.ts'
import type { Option } from '../parts/ChoiceMenu.vue'

/** What can see to it that a column becomes the present moment with each change of its row. */
export const RENEWERS: Option<Renewed>[] = [
  { value: 'database', words: 'the database sees to it', term: 'ON UPDATE, or a trigger' },
  { value: 'application', words: 'the application sees to it', term: 'nothing is written' }
]

export const wordsOf = <T extends string>(options: readonly Option<T>[], value: T): string =>
  options.find((each) => each.value === value)?.words ?? ''
