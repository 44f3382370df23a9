/**
 * How engines spell types that the design has its own words for (the engines' manuals, on data types).
 * `$1` and `$2` are the numbers in it.
 */
const SPELLINGS: [spelled: RegExp, own: string][] = [
  // MariaDB's display width says nothing of the values, except that a boolean is a tinyint of width 1.
  [/^tinyint\(1\)$|^bool$|^bit(?:\(1\))?$/, 'boolean'],
  [/^(?:smallint|tinyint|int2|year)(?:\(\d+\))?$|^tinyint(?:\(\d+\))? unsigned$/, 'smallint'],
  [/^(?:int|integer|mediumint|int4)(?:\(\d+\))?$|^(?:smallint|mediumint)(?:\(\d+\))? unsigned$/, 'integer'],
  [/^(?:bigint|int8)(?:\(\d+\))?$|^(?:int|integer)(?:\(\d+\))? unsigned$/, 'bigint'],
  [/^bigint(?:\(\d+\))? unsigned$/, 'decimal(20,0)'],
  [/^(?:numeric|number|dec|fixed)\((\d+),(\d+)\)$/, 'decimal($1,$2)'],
  [/^(?:numeric|number|dec|fixed)\((\d+)\)$/, 'decimal($1,0)'],
  [/^money$/, 'decimal(19,4)'],
  [/^smallmoney$/, 'decimal(10,4)'],
  [/^(?:double|double precision|real|float\(\d+\)|float[48]|binary_float|binary_double)$/, 'float'],
  [
    /^(?:n?varchar|n?varchar2|(?:national )?(?:character|char) varying)\((\d+)(?: (?:char|byte))?\)$/,
    'text($1)'
  ],
  [/^(?:n?varchar(?:\(max\))?|character varying|n?clob|ntext|mediumtext|longtext)$/, 'text'],
  [/^tinytext$/, 'text(255)'],
  [/^(?:nchar|character|bpchar)\((\d+)(?: (?:char|byte))?\)$|^char\((\d+) (?:char|byte)\)$/, 'char($1$2)'],
  [/^(?:datetime|datetime2|smalldatetime|timestamp)(?:\(\d\))?(?: without time zone)?$/, 'timestamp'],
  [
    /^(?:timestamptz|datetimeoffset)(?:\(\d\))?$|^timestamp\(\d\) with (?:local )?time zone$|^timestamp with local time zone$/,
    'timestamp zone'
  ],
  [/^time(?:\(\d\))?(?: without time zone)?$/, 'time'],
  [/^interval (?:day|year).*$/, 'interval'],
  [/^uniqueidentifier$/, 'uuid'],
  [/^jsonb$/, 'json'],
  [/^(?:bytea|blob|mediumblob|longblob|image|varbinary\(max\)|varbinary|long raw)$/, 'binary'],
  [/^(?:varbinary|raw)\((\d+)\)$/, 'binary($1)']
]

/**
 * The design's words for a type as an engine spells it, or nothing where there is no telling. Case and
 * spaces do not matter.
 */
export function ownWords(spelled: string): string | undefined {
  const plain = spelled
    .trim()
    .toLowerCase()
    .replaceAll(/\s+/g, ' ')
    .replaceAll(/ ?([(),]) ?/g, '$1')
    .replaceAll(/\)(?=[a-z])/g, ') ')
    .replace(/ (?:zerofill|character set .*|collate .*)$/, '')
  for (const [pattern, own] of SPELLINGS) if (pattern.test(plain)) return plain.replace(pattern, own)
  return undefined
}

/**
 * A default as an engine prints it, in the design's words; what it does not know stays as it is. `truth`:
 * it is one of a truth value, which some engines keep as a number.
 */
export function ownDefault(printed: string, truth = false): string {
  const text = unwrapped(printed.trim()).replace(/::[\w ]+(?:\(\d+(?:,\d+)?\))?(?:\[\])?$/, '')
  if (/^(?:null|\(none\)|-)$/i.test(text)) return ''
  if (/^nextval\(|^(?:generated|auto_increment|identity)\b/i.test(text)) return 'generated'
  if (
    /^(?:current_(?:timestamp|date|time)|localtimestamp|now|getdate|sysdate|sysdatetime|sysdatetimeoffset|systimestamp)(?:\(\d?\))?$/i.test(
      text
    )
  )
    return 'now'
  const [, bit] = /^(?:b?')?([01])'?$/.exec(text) ?? []
  if (truth && bit !== undefined) return bit === '1' ? 'true' : 'false'
  return text.replace(/^N(?=')/, '')
}

/** Without the parentheses that one engine puts around every default, and twice around a number. */
function unwrapped(text: string): string {
  const inner = withoutPair(text)
  return inner === undefined ? text : (withoutPair(inner) ?? inner)
}

/**
 * What the first parenthesis encloses, where it is the last that closes it; what stands in quotes closes
 * nothing.
 */
function withoutPair(text: string): string | undefined {
  if (!text.startsWith('(') || !text.endsWith(')')) return undefined
  const bare = text.replaceAll(/'(?:[^']|'')*'/g, (quoted) => '_'.repeat(quoted.length))
  let depth = 0
  for (let at = 0; at < bare.length - 1; at++) {
    depth += bare[at] === '(' ? 1 : bare[at] === ')' ? -1 : 0
    if (depth === 0) return undefined
  }
  return depth === 1 ? text.slice(1, -1).trim() : undefined
}
