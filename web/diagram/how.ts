import { shallowRef, type InjectionKey, type Ref } from 'vue'
import type { Ends } from '../../core/design/model.ts'
import type { Fates } from '../../core/diagram/compared.ts'

/** How the parts of a scene are drawn, for all of them alike. */
export interface How {
  ends: Ends
  /** What became of what, where two states are drawn in one. */
  fates?: Fates | undefined
}
export const HOW: InjectionKey<Ref<How>> = Symbol('how a scene is drawn')
export const PLAIN: Ref<How> = shallowRef({ ends: 'feet' })
