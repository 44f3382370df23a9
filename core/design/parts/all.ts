import type { z } from 'zod'
import { carryPart } from './carry.ts'
import { checkPart } from './check.ts'
import { codeNamePart } from './code-name.ts'
import { columnPart } from './column.ts'
import { designPart } from './design.ts'
import { figurePart } from './figure.ts'
import { foreignKeyPart } from './foreign-key.ts'
import { indexPart } from './index-part.ts'
import { primaryKeyPart, uniquePart } from './key.ts'
import { listPart } from './list.ts'
import { outputPart, outputSettingPart } from './output.ts'
import type { PartKind } from './part.ts'
import { rowPolicyPart } from './row-policy.ts'
import { rulingPart } from './ruling.ts'
import { schemaPart } from './schema.ts'
import { setAsidePart } from './set-aside.ts'
import { subjectPart } from './subject.ts'
import { tablePart } from './table.ts'
import { templatePart } from './template.ts'
import { viewPart } from './view.ts'

/** Every kind of part that a design is made of, but for rows, in the order in which differences are told. */
export const PARTS = {
  design: designPart,
  schema: schemaPart,
  list: listPart,
  table: tablePart,
  column: columnPart,
  primaryKey: primaryKeyPart,
  unique: uniquePart,
  foreignKey: foreignKeyPart,
  check: checkPart,
  index: indexPart,
  rowPolicy: rowPolicyPart,
  carry: carryPart,
  figure: figurePart,
  ruling: rulingPart,
  subject: subjectPart,
  view: viewPart,
  setAside: setAsidePart,
  codeName: codeNamePart,
  output: outputPart,
  outputSetting: outputSettingPart,
  template: templatePart
} as const

type Parts = typeof PARTS
export type PartName = keyof Parts
/** What a part of each kind is. */
export type PartTypes = { [P in PartName]: z.output<Parts[P]['schema']> }
/** In what a part of a kind can change. */
export type AspectOf<P extends PartName> = keyof Parts[P]['aspects'] & string

type WithIds = Extract<Parts[PartName], { prefix: string }>
/** What ids begin with. */
export type Prefix = WithIds['prefix']

const KINDS: { [P in PartName]: PartKind<PartTypes[P]> } = PARTS
export const kindOf = <P extends PartName>(name: P): PartKind<PartTypes[P]> => KINDS[name]

const held = (by: PartKind<never>['heldBy']): PartName[] =>
  (Object.keys(PARTS) as PartName[]).filter((name) => name !== 'design' && PARTS[name].heldBy === by)

/** The kinds that a design holds, and those that a table holds. */
export const IN_DESIGN = held('design')
export const IN_TABLE = held('table')
