import { columnOf, fold, tableOf } from './directory.ts'
import { flawOfExpression } from './expressions.ts'
import type { Column, Design, Figure, ForeignKey, Table } from './model.ts'
import { isNumeric, type Parsed, type Type } from './type.ts'

/** A figure with everything that it names. */
export interface StandingFigure {
  figure: Figure
  /** Whose rows say it. */
  table: Table
  /** The rows that are looked at, and how they refer to the row. */
  of: Table
  by: ForeignKey
  /** What lies beyond them, where the figure is over that. */
  far: { key: ForeignKey; table: Table } | undefined
  /** What is added up or said. */
  column: Column | undefined
  /** By what the first and the last are told. */
  order: Column | undefined
  type: Type
}

const WHOLE: Type = { kind: 'integer', size: 'big' }

/** A figure on what it stands on, or why it does not stand. */
export function standFigure(design: Design, figure: Figure): Parsed<StandingFigure> {
  const fails = (message: string): Parsed<StandingFigure> => ({ ok: false, message })
  const [table, of] = [tableOf(design, figure.table), tableOf(design, figure.of)]
  if (!table) return fails(`The table whose rows say ${figure.name} is gone.`)
  if (!of) return fails(`The table whose rows ${figure.name} is over is gone.`)
  const by = of.foreignKeys.find(({ id }) => id === figure.by)
  if (by?.table !== table.id)
    return fails(`${of.name} no longer refers to ${table.name} by what ${figure.name} is over.`)
  const farKey = of.foreignKeys.find(({ id }) => id === figure.far)
  const farTable = farKey && tableOf(design, farKey.table)
  const far = farKey && farTable ? { key: farKey, table: farTable } : undefined
  if (figure.far !== undefined && !far)
    return fails(`${of.name} no longer refers to what ${figure.name} looks at beyond it.`)
  if (table.columns.some(({ name }) => fold(name) === fold(figure.name)))
    return fails(`${table.name} has a column called ${figure.name}, so the figure needs another name.`)
  const { enums } = design
  const flaw =
    figure.where === undefined ? undefined : flawOfExpression(figure.where, { columns: of.columns, enums })
  if (flaw !== undefined) return fails(`The condition of ${figure.name} does not stand: ${flaw}`)
  if (figure.whereFar !== undefined && !far)
    return fails(`${figure.name} has a condition on what lies beyond ${of.name}, and looks at nothing there.`)
  const farFlaw =
    figure.whereFar !== undefined && far
      ? flawOfExpression(figure.whereFar, { columns: far.table.columns, enums })
      : undefined
  if (farFlaw !== undefined) return fails(`The condition of ${figure.name} does not stand: ${farFlaw}`)
  return measured(figure, { figure, table, of, by, far })
}

type Grounds = Pick<StandingFigure, 'figure' | 'table' | 'of' | 'by' | 'far'>

function measured(figure: Figure, grounds: Grounds): Parsed<StandingFigure> {
  const fails = (message: string): Parsed<StandingFigure> => ({ ok: false, message })
  const { of, far } = grounds
  const said = far?.table ?? of
  const column = figure.column === undefined ? undefined : columnOf(said, figure.column)
  const order = figure.order === undefined ? undefined : columnOf(of, figure.order)
  const stands = (type: Type): Parsed<StandingFigure> => ({
    ok: true,
    value: { ...grounds, column, order: order ?? (far ? undefined : column), type }
  })
  switch (figure.measure) {
    case 'count':
      return stands(WHOLE)
    case 'different':
      return far ? stands(WHOLE) : fails(`${figure.name} needs something beyond ${of.name} to tell apart.`)
    case 'sum':
      if (!column) return fails(`${said.name} no longer has the column that ${figure.name} adds up.`)
      if (!isNumeric(column.type)) return fails(`${column.name} of ${said.name} is no number to add up.`)
      return stands(column.type.kind === 'integer' ? WHOLE : column.type)
    case 'first':
    case 'last':
      if (!column) return fails(`${said.name} no longer has the column that ${figure.name} says.`)
      if (figure.order !== undefined && !order)
        return fails(`${of.name} no longer has the column by which ${figure.name} is told.`)
      if (!order && far)
        return fails(`${figure.name} needs a column of ${of.name} that tells which is first.`)
      return stands(column.type)
  }
}

/** The figures that rows of a table say, in their order; those that do not stand are left out. */
export function figuresOf(design: Design, table: Table): StandingFigure[] {
  return (design.figures ?? []).flatMap((figure) => {
    if (figure.table !== table.id) return []
    const found = standFigure(design, figure)
    return found.ok ? [found.value] : []
  })
}
