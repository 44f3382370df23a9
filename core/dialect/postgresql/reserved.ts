/**
 * Words that PostgreSQL does not take as a table's or column's name without quotes (its manual, appendix
 * C).
 */
export const RESERVED: ReadonlySet<string> = new Set(
  `
all analyse analyze and any array as asc asymmetric authorization between bigint binary bit boolean both
case cast char character
check coalesce collate collation column concurrently constraint create cross current_catalog
current_date current_role
current_schema current_time current_timestamp current_user dec decimal default deferrable desc distinct
do else end except exists
extract false fetch float for foreign freeze from full grant greatest group grouping having ilike in
initially inner inout int
integer intersect interval into is isnull join json json_array json_arrayagg json_exists json_object
json_objectagg json_query
json_scalar json_serialize json_table json_value lateral leading least left like limit localtime
localtimestamp merge_action
national natural nchar none normalize not notnull null nullif numeric offset on only or order out outer
overlaps overlay placing
position precision primary real references returning right row select session_user setof similar
smallint some substring symmetric
system_user table tablesample then time timestamp to trailing treat trim true union unique user using
values varchar variadic
verbose when where window with xmlattributes xmlconcat xmlelement xmlexists xmlforest xmlnamespaces
xmlparse xmlpi xmlroot
xmlserialize xmltable`
    .trim()
    .split(/\s+/)
)

/**
 * Types of PostgreSQL's own (pg_type). It looks there first: a list of values of such a name would be made,
 * and never be found again.
 */
export const TYPE_NAMES = new RegExp(
  `^(_?(${`
aclitem any anyarray anycompatible anycompatiblearray anycompatiblemultirange anycompatiblenonarray
anycompatiblerange anyelement
anyenum anymultirange anynonarray anyrange bit bool box bpchar bytea char cid cidr circle cstring date
datemultirange daterange
event_trigger fdw_handler float4 float8 gtsvector index_am_handler inet int2 int2vector int4
int4multirange int4range int8
int8multirange int8range internal interval json jsonb jsonpath language_handler line lseg macaddr
macaddr8 money name numeric
nummultirange numrange oid oidvector path point polygon record refcursor regclass regcollation regconfig
regdictionary
regnamespace regoper regoperator regproc regprocedure regrole regtype table_am_handler text tid time
timestamp timestamptz timetz
trigger tsm_handler tsmultirange tsquery tsrange tstzmultirange tstzrange tsvector txid_snapshot unknown
uuid varbit varchar void
xid xid8 xml`
    .trim()
    .split(/\s+/)
    .join('|')})|_?pg_.*)$`
)
