import { BOUNDS } from '../core/bounds.ts'
import { writeDesignFile } from '../core/design/file.ts'
import { fullName, tableOf } from '../core/design/directory.ts'
import { readExpression } from '../core/design/expressions.ts'
import type { Design, Row, Table } from '../core/design/model.ts'
import { addRows } from '../core/edit/row.ts'
import { apply } from '../core/edit/apply.ts'
import { DIALECTS, isDialect } from '../core/dialect/index.ts'
import { counted } from '../core/naming/words.ts'
import { junctionSides } from '../core/relate/junction.ts'
import { rowLabel } from '../core/relate/label.ts'
import { tableCalled } from '../core/rehearse/words.ts'
import { readCsv, recogniseCsv, writeCsv } from '../core/rows/csv.ts'
import { generateRows, type GeneratedRows, type Wanted } from '../core/rows/generate.ts'
import { missingPairs, pairsSql, type PairQuestion } from '../core/rows/pairs.ts'
import { openDesign, put, readBytes } from './files.ts'
import { CannotDo, type Outcome } from './outcome.ts'

export interface RowsOptions {
  table?: string
  file?: string
  output?: string
  separator?: string
  labels?: boolean
  where?: string[]
  rows?: string
  seed?: string
  as?: string
}

/** The rows of a table as CSV, on standard output or into a file. */
export function exportRows(
  path: string,
  { table: name, output, separator, labels = false }: RowsOptions
): Outcome {
  const { design } = openDesign(path)
  const table = needTable(design, name)
  put(
    writeCsv(design, table, { labels, ...(separator !== undefined && { separator: between(separator) }) }),
    output
  )
  return {
    status: 0,
    json: { table: table.name, rows: table.rows.length, written: output ?? null },
    words: output ? [`${output}: ${counted(table.rows.length, 'row')} of ${table.name}`] : []
  }
}

/** Takes the rows of a CSV file into a table; status 1 where lines were not taken, which are listed. */
export function importRows(path: string, { table: name, file, output, separator }: RowsOptions): Outcome {
  const { design, versions } = openDesign(path)
  const table = needTable(design, name)
  if (file === undefined) throw new CannotDo('Say which file to take: rows DESIGN import FILE --table TABLE.')
  const read = recogniseCsv(readBytes(file, BOUNDS.file))
  const form = { ...read.form, ...(separator !== undefined && { separator: between(separator) }) }
  const { rows, bad, fields, lines, over } = readCsv(design, table, { text: read.text, form })
  if (over > 0)
    throw new CannotDo(
      `${file}: it has ${counted(over, 'row')} more than ${table.name} can hold, which is ${BOUNDS.rows.toLocaleString('en-GB')} with the ${table.rows.length} that it has. None was taken.`
    )
  const left = fields.filter(({ column }) => column === undefined).map((field) => field.name)
  write(withRows(design, table, rows), versions, output ?? path)
  return {
    status: bad.length > 0 ? 1 : 0,
    json: { table: table.name, taken: rows.length, lines, form, leftOut: left, bad },
    words: [
      `${table.name}: ${counted(rows.length, 'row')} of ${counted(lines, 'line')} taken, read as ${form.encoding} with “${form.separator}” between fields`,
      ...(left.length > 0 ? [`left out: ${left.join(', ')}`] : []),
      ...bad.map(({ line, why }) => `${file}:${line}: ${why.join(' ')}`)
    ]
  }
}

/** Puts the pairs into a junction that it lacks, or says them as SQL. */
export function fillRows(path: string, { table: name, output, where = [], as }: RowsOptions): Outcome {
  const { design, versions } = openDesign(path)
  const junction = needTable(design, name)
  const question = questionOf(design, junction, where)
  if (as !== undefined) {
    if (!isDialect(as)) throw new CannotDo(`“${as}” is not one of ${Object.keys(DIALECTS).join(', ')}.`)
    put(`${pairsSql(design, question, DIALECTS[as])};\n`, output)
    return { status: 0, json: { table: junction.name, written: output ?? null }, words: [] }
  }
  const { rows, wanted, there } = missingPairs(design, question)
  write(withRows(design, junction, rows), versions, output ?? path)
  return {
    status: 0,
    json: { table: junction.name, filled: rows.length, wanted, there },
    words: [
      `${junction.name}: ${counted(rows.length, 'pair')} put in; ${there} of ${wanted} were there already`,
      ...rows.slice(0, 20).map((row) => `  ${rowLabel(design, junction, row)}`),
      ...(rows.length > 20 ? [`  and ${rows.length - 20} more`] : [])
    ]
  }
}

/** Makes believable rows, so many for each table or for one; the same ones from the same seed. */
export function makeRows(path: string, { table: name, output, rows, seed }: RowsOptions): Outcome {
  const { design, versions } = openDesign(path)
  const count = wholeNumber(rows ?? '100', '--rows', BOUNDS.rows)
  const tables =
    name === undefined ? design.tables.filter(({ external }) => !external) : [needTable(design, name)]
  const wanted = new Map(tables.map(({ id }) => [id, count]))
  const made = madeRows(design, { seed: wholeNumber(seed ?? '1', '--seed', 2 ** 31), rows: wanted })
  write(made.design, versions, output ?? path)
  const more = tables.map(({ id, name: called, rows: before }) => ({
    table: called,
    rows: (tableOf(made.design, id)?.rows.length ?? 0) - before.length
  }))
  return {
    status: made.short.length > 0 ? 1 : 0,
    json: {
      made: more,
      short: made.short.map((each) => ({ ...each, table: tableOf(design, each.table)?.name }))
    },
    words: [
      ...more.map((each) => `${each.table}: ${counted(each.rows, 'row')}`),
      ...made.short.map(({ why }) => `fewer than wanted: ${why}`)
    ]
  }
}

function madeRows(design: Design, wanted: Wanted): GeneratedRows {
  const making = generateRows(design, wanted)
  for (;;) {
    const step = making.next()
    if (step.done) return step.value
  }
}

function wholeNumber(text: string, option: string, most: number): number {
  const number = Number(text)
  if (!Number.isInteger(number) || number < 1 || number > most)
    throw new CannotDo(
      `${option} takes a whole number from 1 to ${most.toLocaleString('en-GB')}, not “${text}”.`
    )
  return number
}

function questionOf(design: Design, junction: Table, where: readonly string[]): PairQuestion {
  const [one, other] = junctionSides(junction)
  if (!one || !other)
    throw new CannotDo(`${junction.name} is no junction: it has no two references in one key.`)
  const conditions = new Map<string, string>()
  for (const each of where) {
    const [, name = '', text = ''] = /^([^:]+):(.*)$/s.exec(each) ?? []
    const table = needTable(design, name.trim() === '' ? each : name.trim())
    const read = readExpression(text, { columns: table.columns, enums: design.enums })
    if (!read.ok) throw new CannotDo(`The condition on ${table.name} cannot be read: ${read.message}`)
    conditions.set(table.id, read.value)
  }
  const stray = [...conditions.keys()].find((id) => id !== one.table && id !== other.table)
  if (stray !== undefined)
    throw new CannotDo(`${tableOf(design, stray)?.name ?? stray} is on no side of ${junction.name}.`)
  const side = ({ id, table }: typeof one) => {
    const condition = conditions.get(table)
    return { foreignKey: id, ...(condition !== undefined && { where: condition }) }
  }
  return { junction: junction.id, sides: [side(one), side(other)] }
}

function withRows(design: Design, table: Table, rows: readonly Row[]): Design {
  const result = apply(design, addRows(table, rows))
  if (!result.ok) throw new CannotDo(result.refusal.message)
  return result.design
}

function write(design: Design, versions: ReturnType<typeof openDesign>['versions'], to: string): void {
  put(writeDesignFile(design, versions), to)
}

function needTable(design: Design, name: string | undefined): Table {
  if (name === undefined) throw new CannotDo('Say which table: --table TABLE.')
  const table = tableCalled(design, name)
  if (!table)
    throw new CannotDo(
      `${design.name} has no table called “${name}”. It has: ${design.tables.map((each) => fullName(design, each)).join(', ')}.`
    )
  if (table.external)
    throw new CannotDo(`${table.name} is another system's: what rows it has is not known here.`)
  return table
}

/** What stands between fields, as it is typed in a shell. */
function between(separator: string): string {
  const meant = separator === 'tab' || separator === '\\t' ? '\t' : separator
  if (meant.length !== 1) throw new CannotDo(`“${separator}” is no separator: it is one character, or tab.`)
  return meant
}
