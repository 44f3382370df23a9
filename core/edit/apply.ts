import { newFlaw } from '../design/integrity.ts'
import type { Design } from '../design/model.ts'
import { shorten } from '../design/type.ts'
import {
  addColumn,
  annotateColumn,
  moveColumn,
  removeColumn,
  renameColumn,
  requireColumn,
  retypeColumn,
  setDefault
} from './columns.ts'
import { addSubject, addView, changeSubject, changeView, removeSubject, removeView } from './drawn.ts'
import { addFigure, changeFigure, removeFigure } from './figures.ts'
import { asSentence, type Handler } from './handler.ts'
import { addUnique, removeUnique, setPrimary } from './keys.ts'
import { refuseRows } from './mend-rows.ts'
import type { Operation } from './operation.ts'
import { Refused, type Refusal } from './refusal.ts'
import {
  addForeignKey,
  addJunction,
  addRelationship,
  removeForeignKey,
  resolveToJunction,
  setAccessors,
  setActions,
  setDeferrable,
  setMinimum,
  setNature,
  setVerbs
} from './relationships.ts'
import {
  addCheck,
  addIndex,
  addRowPolicy,
  changeCheck,
  changeIndex,
  changeRowPolicy,
  computeColumn,
  copyColumn,
  renewColumn,
  removeCheck,
  removeIndex,
  setRowSecurity,
  removeRowPolicy,
  renameConstraint
} from './rules.ts'
import {
  addEnum,
  addSchema,
  changeEnum,
  removeEnum,
  removeSchema,
  renameSchema,
  setDialects,
  setAside,
  setOldest,
  setExternal,
  setPolicy,
  setStanding,
  setUsual,
  setSchema
} from './shared.ts'
import { changeRows } from './rows.ts'
import { addRuling, changeRuling, removeRuling } from './rulings.ts'
import {
  addCarry,
  addTable,
  annotateTable,
  moveTable,
  placeTable,
  removeCarry,
  removeTable,
  renameDesign,
  renameTable,
  setLabel,
  setRows
} from './tables.ts'
import { setOutput, setCodeName, setOutputSetting, setTemplate } from './wanted.ts'

const HANDLERS: { [K in Exclude<Operation['kind'], 'batch'>]: Handler<K> } = {
  'design.rename': renameDesign,
  'design.setPolicy': setPolicy,
  'design.setStanding': setStanding,
  'design.setUsual': setUsual,
  'design.setDialects': setDialects,
  'design.setOldest': setOldest,
  'design.setOutput': setOutput,
  'design.setOutputSetting': setOutputSetting,
  'template.set': setTemplate,
  'code.setName': setCodeName,
  'finding.setAside': setAside,
  'schema.add': addSchema,
  'schema.rename': renameSchema,
  'schema.remove': removeSchema,
  'enum.add': addEnum,
  'enum.change': changeEnum,
  'enum.remove': removeEnum,
  'table.add': addTable,
  'table.rename': renameTable,
  'table.annotate': annotateTable,
  'table.setSchema': setSchema,
  'table.setExternal': setExternal,
  'table.setRowSecurity': setRowSecurity,
  'table.setLabel': setLabel,
  'table.move': moveTable,
  'table.remove': removeTable,
  'table.setRows': setRows,
  'rows.change': changeRows,
  'table.place': placeTable,
  'column.add': addColumn,
  'column.rename': renameColumn,
  'column.annotate': annotateColumn,
  'column.retype': retypeColumn,
  'column.require': requireColumn,
  'column.setDefault': setDefault,
  'column.compute': computeColumn,
  'column.copy': copyColumn,
  'column.renew': renewColumn,
  'column.move': moveColumn,
  'column.remove': removeColumn,
  'key.setPrimary': setPrimary,
  'unique.add': addUnique,
  'unique.remove': removeUnique,
  'constraint.rename': renameConstraint,
  'check.add': addCheck,
  'check.change': changeCheck,
  'check.remove': removeCheck,
  'index.add': addIndex,
  'index.change': changeIndex,
  'index.remove': removeIndex,
  'rowPolicy.add': addRowPolicy,
  'rowPolicy.change': changeRowPolicy,
  'rowPolicy.remove': removeRowPolicy,
  'foreignKey.add': addForeignKey,
  'foreignKey.remove': removeForeignKey,
  'foreignKey.setActions': setActions,
  'foreignKey.setDeferrable': setDeferrable,
  'foreignKey.setVerbs': setVerbs,
  'foreignKey.setMinimum': setMinimum,
  'foreignKey.setNature': setNature,
  'foreignKey.setAccessors': setAccessors,
  'figure.add': addFigure,
  'figure.change': changeFigure,
  'figure.remove': removeFigure,
  'subject.add': addSubject,
  'subject.change': changeSubject,
  'subject.remove': removeSubject,

  'view.add': addView,
  'view.change': changeView,
  'view.remove': removeView,

  'ruling.add': addRuling,
  'ruling.change': changeRuling,
  'ruling.remove': removeRuling,
  'carry.add': addCarry,
  'carry.remove': removeCarry,
  'relationship.add': addRelationship,
  'relationship.addJunction': addJunction,
  'relationship.resolveToJunction': resolveToJunction
}

export interface Applied {
  ok: true
  design: Design
  /** Takes the operation back: applied to `design` it gives the design before, byte for byte. */
  inverse: Operation
  /** Ids of the tables that changed, or whose neighbours' readings did. */
  touched: ReadonlySet<string>
}

export type ApplyResult = Applied | { ok: false; refusal: Refusal }

/**
 * Carries out one operation on a design. Pure: the design given is never changed, parts that stay the
 * same are shared. Returns the next design, the inverse and what was touched; or why it was refused.
 * What comes out has no flaw (../design/integrity.ts) that what went in had not, and no rows that an engine would
 * not take (../design/violations.ts).
 */
export function apply(design: Design, operation: Operation): ApplyResult {
  const result = replay(design, operation)
  const flaw = result.ok ? newFlaw(design, result.design) : undefined
  if (!flaw) {
    const isJudged = result.ok && !isWriting(operation)
    const refusal = isJudged ? refuseRows(design, result.design, operation) : undefined
    return refusal ? { ok: false, refusal } : result
  }
  return {
    ok: false,
    refusal: {
      code: 'invalid',
      message: asSentence(shorten(flaw.message, 400)),
      where: placeOf(result, flaw.path),
      offers: []
    }
  }
}

/** Whether nothing is done but writing rows: those that break a rule are kept as they are written, and told of. */
const isWriting = (operation: Operation): boolean =>
  operation.kind === 'batch' ? operation.operations.every(isWriting) : operation.kind === 'rows.change'

/** The table that a flaw is about, where it is about one. */
function placeOf(result: ApplyResult, [kind, at]: (string | number)[]): Refusal['where'] {
  const table =
    result.ok && kind === 'tables' && typeof at === 'number' ? result.design.tables[at] : undefined
  return table ? { table: table.id } : {}
}

/**
 * Carries out an operation that was taken before, as it was then: what is judged more strictly since does
 * not change the past.
 */
export function replay(design: Design, operation: Operation): ApplyResult {
  const touched = new Set<string>()
  try {
    const done = run(design, operation, touched)
    return { ok: true, design: done.design, inverse: done.inverse, touched }
  } catch (error) {
    if (error instanceof Refused) return { ok: false, refusal: error.refusal }
    throw error
  }
}

function run(
  design: Design,
  operation: Operation,
  touched: Set<string>
): { design: Design; inverse: Operation } {
  if (operation.kind === 'batch') return runAll(design, operation.operations, touched)
  const handler = HANDLERS[operation.kind] as Handler<typeof operation.kind>
  const outcome = handler(design, operation as never)
  if ('instead' in outcome) return runAll(design, outcome.instead, touched)
  outcome.touched.forEach((id) => touched.add(id))
  return outcome
}

function runAll(
  design: Design,
  operations: readonly Operation[],
  touched: Set<string>
): { design: Design; inverse: Operation } {
  const inverses: Operation[] = []
  let current = design
  for (const [at, operation] of operations.entries()) {
    const done = runOne(current, operation, touched, operations, at)
    current = done.design
    inverses.unshift(done.inverse)
  }
  const [only] = inverses
  return {
    design: current,
    inverse: inverses.length === 1 && only ? only : { kind: 'batch', operations: inverses }
  }
}

/**
 * Runs one of several. What is offered in its place is offered with the others around it, so that all that
 * was meant is done.
 */
function runOne(
  design: Design,
  operation: Operation,
  touched: Set<string>,
  all: readonly Operation[],
  at: number
): { design: Design; inverse: Operation } {
  try {
    return run(design, operation, touched)
  } catch (error) {
    if (!(error instanceof Refused) || all.length === 1) throw error
    const { code, message, where, offers } = error.refusal
    throw new Refused(
      code,
      message,
      where,
      offers.map(({ label, operation: instead }) => ({
        label,
        operation: {
          kind: 'batch',
          label: label.charAt(0).toLowerCase() + label.slice(1),
          operations: [...all.slice(0, at), instead, ...all.slice(at + 1)]
        }
      }))
    )
  }
}
