import { subjectSchema } from '../design/model.ts'
import { shorten } from '../design/type.ts'
import { checkMemberName, handledInDesign, inDesign } from './member.ts'
import { noun, type OperationsOf } from './operation.ts'

/** Subjects: what belongs together in the diagram. */

const KINDS = inDesign('subject', subjectSchema, {
  add: ({ name }) => `make the subject ${shorten(name)}`,
  change: ({ name }) => `change the subject ${shorten(name)}`,
  remove: () => 'remove a subject'
})

declare module './operation.ts' {
  interface Operations extends OperationsOf<typeof KINDS> {}
}

export const SUBJECT = noun(
  KINDS,
  handledInDesign('subject', { check: (design, subject) => checkMemberName(design, 'subject', subject) })
)
