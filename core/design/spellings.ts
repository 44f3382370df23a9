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

/** What people call types who have no engine's words at hand. */
const EVERYDAY: [spelled: RegExp, own: string][] = [
  [/^(?:string|str)\((\d+)\)$/, 'text($1)'],
  [/^(?:string|str|memo|long ?text|short ?text)$/, 'text'],
  [/^e-?mail(?: address)?$/, 'text(254)'],
  [/^(?:tele)?phone(?: number)?$/, 'text(24)'],
  [/^(?:number|whole number)$/, 'integer'],
  [/^(?:number|whole number)\((\d+)\)$/, 'decimal($1,0)'],
  [/^currency$/, 'decimal(19,4)'],
  [/^(?:percent|percentage|%)$/, 'decimal(5,2)'],
  [/^(?:yes\/no|yes or no|true\/false|true or false|logical)$/, 'boolean'],
  [/^(?:date\/time|date and time|date ?time)$/, 'timestamp'],
  [/^guid$/, 'uuid'],
  [/^bytes?$/, 'binary']
]

/** Whole numbers that the engine counts by itself, and how large they are (PostgreSQL's manual, 8.1.4, and everyday words). */
const COUNTED: [spelled: RegExp, own: string][] = [
  [/^(?:smallserial|serial2)$/, 'smallint'],
  [/^(?:bigserial|serial8)$/, 'bigint'],
  [/^(?:serial|serial4|auto ?number|auto ?increment|identity|counter|counted|generated)$/, 'integer']
]

/** The type of a number that is counted, where the words say so. */
export function countedType(spelled: string): string | undefined {
  const plain = spelled
    .trim()
    .toLowerCase()
    .replaceAll(/[\s_]+/g, ' ')
  return COUNTED.find(([pattern]) => pattern.test(plain))?.[1]
}

/** `text 40` and `decimal 8 2` with their numbers where others put them. */
const withParentheses = (plain: string): string =>
  plain.replace(
    /^([a-z][a-z0-9 ]*?) (\d+)(?:[ ,]+(\d+))?$/,
    (_, word: string, first: string, second?: string) =>
      second === undefined ? `${word}(${first})` : `${word}(${first},${second})`
  )

/**
 * The design's words for a type as an engine or a person spells it, or nothing where there is no telling. Case and
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
  const numbered = withParentheses(plain)
  for (const [pattern, own] of [...SPELLINGS, ...EVERYDAY])
    if (pattern.test(numbered)) return numbered.replace(pattern, own)
  return numbered === plain ? undefined : numbered
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
