import { RESERVED as MARIADB } from '../mariadb/reserved.ts'

/** Words that MariaDB alone keeps. */
const NOT_HERE = new Set(
  `current_role delete_domain_id do_domain_ids general ignore_domain_ids ignore_server_ids
master_heartbeat_period offset page_checksum parse_vcol_expr ref_system_id returning slow
stats_auto_recalc stats_persistent stats_sample_pages`.split(/\s+/)
)
/** Words that MySQL alone keeps (MySQL 8.4 Reference Manual, 11.3). */
const HERE_ALONE = `cube cume_dist dense_rank empty first_value function generated get grouping groups
io_after_gtids io_before_gtids json_table lag last_value lateral lead manual master_bind nth_value ntile of
optimizer_costs parallel percent_rank qualify rank row sql_after_gtids sql_before_gtids stored system
tablesample usage virtual`.split(/\s+/)

/** Words that MySQL does not take as a name without quotes. */
export const RESERVED: ReadonlySet<string> = new Set([
  ...[...MARIADB].filter((word) => !NOT_HERE.has(word)),
  ...HERE_ALONE
])
