import type { Column, Table } from '../../design/model.ts'
import { buildCatalog } from '../build.ts'
import type { CatalogColumn } from '../catalog.ts'
import type { Dialect, Remark } from '../dialect.ts'
import { nameLength } from '../names.ts'
import { migrate, resetCounter } from './migrate.ts'
import { read, reset } from './read.ts'
import { canonicalDefault, postgresqlDefault, postgresqlLiteral, postgresqlType } from './types.ts'
import { createAll, quote } from './write.ts'

const NAME_BYTES = 63

/** PostgreSQL 15 and later. */
export const postgresql: Dialect = {
  name: 'postgresql',
  title: 'PostgreSQL',
  action: () => ({ can: true }),
  nameLimit: { most: NAME_BYTES, of: 'bytes' },
  ordersColumns: false,
  quote,
  literal: postgresqlLiteral,
  default: postgresqlDefault,
  oneDefault: canonicalDefault,
  catalog: (design) => ({ catalog: buildCatalog(design, postgresql, writeColumn), remarks: design.tables.flatMap(remarksOn) }),
  create: createAll,
  migrate,
  afterRows: resetCounter,
  onConnect: ["SET TIME ZONE 'UTC'"],
  reset,
  read,
  selectText: (column, type) => (type.kind === 'binary' ? `encode(${quote(column)}, 'hex')` : `${quote(column)}::text`)
}

function remarksOn(table: Table): Remark[] {
  return [table.name, ...table.columns.map((column) => column.name)]
    .filter((name) => nameLength(name, 'bytes') > NAME_BYTES)
    .map((name) => ({ table: table.id, message: `PostgreSQL takes names of up to ${NAME_BYTES} bytes: ${name.slice(0, 30)}… is shortened.` }))
}

function writeColumn(_: Table, column: Column): CatalogColumn {
  const type = postgresqlType(column.type)
  const written = column.default && postgresqlDefault(column.default, column.type)
  const generated = column.default?.kind === 'generated'
  // An identity column is NOT NULL whether or not one says so.
  return { id: column.id, name: column.name, type, required: column.required || generated, default: written, generated }
}

