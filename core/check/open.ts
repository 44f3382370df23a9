import { tableOf } from '../design/directory.ts'
import type { Design, TableId } from '../design/model.ts'
import { once } from '../once.ts'
import { findingsIn, findingsOn } from './index.ts'
import { bySeverity, type Finding } from './finding.ts'

/** All findings of a design, the most serious first. */
export const allFindings = (design: Design): readonly Finding[] => inRank(findingsIn(design))

const inRank = once((found: ReadonlyMap<string, readonly Finding[]>): readonly Finding[] =>
  [...found.values()].flat().sort(bySeverity)
)

/** Why a finding was let stand; nothing where it is open. */
export function reasonFor(design: Design, { rule, table, column }: Finding): string | undefined {
  const found = design.setAside?.find(
    (each) => each.rule === rule && each.table === table && each.column === column
  )
  return found?.reason
}

const openBefore = new WeakMap<Design, { all: readonly Finding[]; open: readonly Finding[] }>()

/** The findings that nobody has set aside. */
export function openFindings(design: Design): readonly Finding[] {
  const all = allFindings(design)
  if (design.setAside === undefined) return all
  const known = openBefore.get(design)
  if (known?.all === all) return known.open
  const open = all.filter((finding) => reasonFor(design, finding) === undefined)
  openBefore.set(design, { all, open })
  return open
}

/** Those of one table, in the order in which they were found. */
export function openFindingsOn(design: Design, table: TableId): readonly Finding[] {
  const all = findingsOn(design, table)
  const isAny = design.setAside?.some((each) => each.table === table) ?? false
  return isAny ? all.filter((finding) => reasonFor(design, finding) === undefined) : all
}
/** Where a finding is, in words. */
export function placeOfFinding(design: Design, { table: id, column }: Finding): string {
  const table = tableOf(design, id)
  const found = column === undefined ? undefined : table?.columns.find((each) => each.id === column)
  return [table?.name ?? '', ...(found ? [found.name] : [])].join('.')
}
