import { viewSchema } from '../design/model.ts'
import { shorten } from '../design/type.ts'
import { checkMemberName, handledInDesign, inDesign } from './member.ts'
import { noun, type OperationsOf } from './operation.ts'

/** Views: parts of the diagram that are kept. */

const KINDS = inDesign('view', viewSchema, {
  add: ({ name }) => `keep the view ${shorten(name)}`,
  change: ({ name }) => `change the view ${shorten(name)}`,
  remove: () => 'remove a view'
})

declare module './operation.ts' {
  interface Operations extends OperationsOf<typeof KINDS> {}
}

export const VIEW = noun(
  KINDS,
  handledInDesign('view', { check: (design, view) => checkMemberName(design, 'view', view) })
)
