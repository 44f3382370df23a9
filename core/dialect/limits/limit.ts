import type { Column, Design, Table } from '../../design/model.ts'
import type { CatalogTable } from '../catalog.ts'
import type { Facts, TypeWords } from '../facts.ts'
import type { LimitRemark } from '../remark.ts'
import type { Keeping } from '../trigger.ts'

/** What a limit may ask: a table, as it is designed and as the dialect writes it, and what it refers to. */
export interface LimitContext {
  table: Table
  made: CatalogTable
  design: Design
  facts: Facts
  /** The dialect's name. */
  dialect: string
  /** A column's type as the dialect writes it, with what else it says of it. */
  words(table: Table, column: Column): TypeWords
  /** What sees to a column that the database is to renew or to copy. */
  keeping(column: Column): Keeping | undefined
  /** Whether the engine takes an index on the rows that meet the condition. */
  filters(where: string): boolean
}

/** Where an engine's limits are passed, and what it does otherwise; a file for each kind of limit. */
export type Limit = (asked: LimitContext) => LimitRemark[]
