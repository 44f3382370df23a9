import type { CatalogColumn, CatalogTable } from './catalog.ts'
import type { Keepsake, MigrationInput } from './migration.ts'
import type { State } from './state.ts'
import { constraintsOf, type Step } from './step.ts'

/**
 * What takes a step back that was the last to be done, and finds nothing to do where it was not: for an
 * engine that keeps each statement at once. Nobody has written since; what was dropped is in the keepsakes.
 * @param state what there was before the step
 */
export function undoOf(step: Step, state: State, { keep }: Pick<MigrationInput, 'keep'>): Step[] {
  const kept = (table: string): Keepsake | undefined => keep.find((each) => each.table === table)
  const putBack = (table: string, column: string): Step[] => {
    const keepsake = kept(table)
    const isIn = keepsake?.columns.some(({ id }) => id === column)
    return keepsake && isIn ? [{ kind: 'putBack', keepsake, columns: [column] }] : []
  }
  switch (step.kind) {
    case 'makeSchema':
      return [{ kind: 'dropSchema', name: step.schema.name }]
    case 'renameSchema':
      return [{ ...step, name: state.schema(step.schema).name }]
    case 'dropSchema':
      return state.catalog.schemas
        .filter(({ name }) => name === step.name)
        .map((schema) => ({ kind: 'makeSchema', schema }))
    case 'makeTable':
      return [{ kind: 'dropTable', table: step.table.id }]
    case 'dropTable':
      return makeAgain(state.table(step.table), kept(step.table))
    case 'renameTable':
    case 'moveTable':
      return [{ ...step, name: state.table(step.table).name }]
    case 'noteTable':
      return [{ ...step, note: state.table(step.table).note }]
    case 'addColumn':
      return [{ kind: 'dropColumn', table: step.table, column: step.column.id }]
    case 'dropColumn': {
      const table = state.table(step.table)
      const column = state.column(step.table, step.column)
      const after = table.columns[table.columns.indexOf(column) - 1]?.id
      return addAgain(step.table, column, after, putBack(step.table, step.column))
    }
    case 'renameColumn':
      return [{ ...step, name: state.column(step.table, step.column).name }]
    case 'changeColumn': {
      const table = state.table(step.table)
      const column = state.column(step.table, step.column.id)
      if (column.computed !== undefined && step.column.computed === undefined) {
        const after = table.columns[table.columns.indexOf(column) - 1]?.id
        return [
          { kind: 'dropColumn', table: step.table, column: column.id },
          { kind: 'addColumn', table: step.table, column, after }
        ]
      }
      const back = putBack(step.table, column.id)
      if (back.length === 0) return [{ ...step, column }]
      return [{ ...step, column: { ...column, required: false } }, ...back, { ...step, column }]
    }
    case 'orderColumns':
      return [{ ...step, order: state.table(step.table).columns.map(({ id }) => id) }]
    case 'addConstraint':
      return [
        { kind: 'dropConstraint', table: step.table, of: step.constraint.kind, id: step.constraint.key.id }
      ]
    case 'dropConstraint':
      return [
        {
          kind: 'addConstraint',
          table: step.table,
          constraint: state.constraint(step.table, step.of, step.id)
        }
      ]
    case 'renameConstraint':
      return [{ ...step, name: state.constraint(step.table, step.of, step.id).key.name }]
    case 'setPolicies': {
      const { rowPolicies: policies, rowSecurity: security } = state.table(step.table)
      return [{ ...step, policies, security }]
    }
    case 'keep':
      return [{ kind: 'dropKeepsake', keepsake: step.keepsake }]
    case 'stage':
      return [{ kind: 'unstage', result: step.result }]
    case 'putBackNarrowed':
      return [{ ...step, kind: 'takeBackNarrowed' }]
    case 'fillEmpty':
      return putBack(step.table, step.column)
    case 'fill':
      return step.fill.whereEmpty ? step.fill.columns.flatMap(({ id }) => putBack(step.fill.table, id)) : []
    // What is put into new tables and new columns goes with them.
    default:
      return []
  }
}

/** A column that is there again, with what was kept of it. */
function addAgain(table: string, column: CatalogColumn, after: string | undefined, back: Step[]): Step[] {
  if (back.length === 0) return [{ kind: 'addColumn', table, column, after }]
  const loose = { ...column, required: false, generated: false }
  return [
    { kind: 'addColumn', table, column: loose, after },
    ...back,
    { kind: 'changeColumn', table, column }
  ]
}

/** A table that is there again, with its rows; references to it have gone before it. */
function makeAgain(table: CatalogTable, keepsake: Keepsake | undefined): Step[] {
  const bare = { ...table, foreignKeys: [], indexes: [], rowPolicies: [], rowSecurity: 'off' as const }
  // Where it had not gone yet, its rows are still there.
  const back: Step[] = keepsake
    ? [
        { kind: 'clear', table: table.id },
        { kind: 'putBackRows', keepsake: { ...keepsake, returns: [] } }
      ]
    : []
  return [
    { kind: 'makeTable', table: bare },
    ...back,
    ...constraintsOf(table)
      .filter(({ kind }) => kind === 'index' || kind === 'foreignKey')
      .map((constraint): Step => ({ kind: 'addConstraint', table: table.id, constraint }))
  ]
}
