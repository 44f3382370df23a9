import { rulingSchema, type Design, type Ruling } from '../design/model.ts'
import { shorten } from '../design/type.ts'
import { needTable } from './handler.ts'
import { handledInDesign, inDesign } from './member.ts'
import { noun, type OperationsOf } from './operation.ts'

/** Rulings: changes of rows with a verdict, kept with the design. */

const KINDS = inDesign('ruling', rulingSchema, {
  add: ({ says }) => `keep the ruling “${shorten(says)}”`,
  change: ({ says }) => `change the ruling “${shorten(says)}”`,
  remove: () => 'remove a ruling'
})

declare module './operation.ts' {
  interface Operations extends OperationsOf<typeof KINDS> {}
}

const tablesOf = ({ statements }: Ruling): string[] => [...new Set(statements.map(({ table }) => table))]

/** One that is there already may name what is gone by now. */
function check(design: Design, ruling: Ruling, before?: Ruling): void {
  if (before) return
  for (const id of tablesOf(ruling)) needTable(design, id)
}

export const RULING = noun(
  KINDS,
  handledInDesign('ruling', { check, isPutBackUnchecked: true, touches: tablesOf })
)
