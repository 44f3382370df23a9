import { effort as mariadb } from '../mariadb/effort.ts'
import type { EffortFacts } from '../effort.ts'

/**
 * What steps cost in MySQL with InnoDB (MySQL 8.4 Reference Manual, 17.12.1, "Online DDL Operations"): as in
 * MariaDB, but that what is computed and kept with the row is written for every row.
 */
export const effort: EffortFacts = {
  ...mariadb,
  shape: (step, table) =>
    step.kind === 'addColumn' && step.column.stored
      ? { work: 'writes', waits: 'writers' }
      : mariadb.shape(step, table)
}
