import type { Statement } from './catalog.ts'
import { quoteText } from './quote.ts'
import type { WayInputs } from './step.ts'
import type { WayProgress, Distance } from './distance.ts'

/**
 * The chain: all versions of a design, each as a way up and a way down that looks first where the database
 * stands. A table of account holds which versions were run there; each dialect says in its chain.ts how its
 * own client passes over a script that does not fit.
 */

/** One way of one version. */
export interface ChainLink {
  /** Id of the design: a database may hold several. */
  design: string
  way: 'up' | 'down'
  number: number
  /** The version before it; 0 for nothing at all. */
  before: number
  /** What this version, and each before it, is known by. */
  marks: readonly VersionMark[]
  /** The table of account, quoted. */
  account: string
}

/** A version, and a text that is another where the version is another. */
export interface VersionMark {
  number: number
  checksum: string
}

/** A statement, or a line for the engine's own client, which takes it as it is. */
export type ScriptLine = Statement & { isForClient?: true }

/** What is done in the same transaction before a migration, and after it. */
export interface Around {
  first: ScriptLine[]
  last: ScriptLine[]
}
export const NOTHING_AROUND: Around = { first: [], last: [] }

/** What is dropped by {@link ChainWords.dropAll}: names of all that any version has, quoted. */
export interface Everything {
  tables: string[]
  lists: string[]
  schemas: string[]
}

/** How a dialect says the chain, for the engine's own client. */
export interface ChainWords {
  /** How a script is run by its client. */
  run: string
  /** What makes the table of account, unless it is there. */
  account(place: string): ScriptLine[]
  /** The way of a version that runs only where it fits, and says what it did or why it did nothing. */
  link(ways: WayInputs, link: ChainLink): ScriptLine[]
  /** Notes that a database which was made otherwise stands at a version; only where nothing is noted. */
  adopt(link: ChainLink): ScriptLine[]
  /**
   * Drops everything, only where a table called {@link MEANT} is there, and that one too.
   */
  dropAll(everything: Everything): ScriptLine[]
  /** Runs the files of those ways up that are still to come, where the client cannot pass over what is in one. */
  upToDate?(files: readonly { link: ChainLink; path: string }[]): ScriptLine[]
}

/** The table that a person makes to say that all is to be dropped. */
export const MEANT = 'drop_everything'

/** How a dialect puts a text together. */
export type Joined = (parts: readonly TextPart[]) => string
/** A text as it is, or an expression for a number. */
export type TextPart = string | { sql: string }

/** Parts of a text as SQL, each by itself. */
export const partsAsSql = (parts: readonly TextPart[], quoted = quoteText): string[] =>
  parts.map((part) => (typeof part === 'string' ? quoted(part) : part.sql))

/** As the standard puts texts together (ISO/IEC 9075-2, 6.29). */
export const joinedByBars: Joined = (parts) => partsAsSql(parts).join(' || ')

/** A line for the engine's own client. */
export const forClient = (sql: string, says: string): ScriptLine => ({ sql, says, isForClient: true })

/**
 * Where the database stands, as a table of one row: `stands`, the largest version that was run, 0 for none;
 * `changed`, the first that was run here and is another by now, empty where there is none.
 */
export function here({ account, design, marks }: ChainLink): string {
  const known = marks.map(({ number, checksum }) => `      WHEN ${number} THEN ${quoteText(checksum)}`)
  return [
    '(',
    '  SELECT coalesce(max(version), 0) AS stands,',
    '    min(CASE WHEN checksum <> CASE version',
    ...known,
    '      ELSE checksum END THEN version END) AS changed',
    `  FROM ${account} WHERE design = ${quoteText(design)}`,
    ') here'
  ].join('\n')
}

/** What must hold {@link here} for the way to run. */
export function fitsHere({ way, number, before }: ChainLink): string {
  return `stands = ${way === 'up' ? before : number} AND changed IS NULL`
}

/** The same as a condition by itself. */
export const fits = (link: ChainLink): string =>
  `EXISTS (SELECT 1 FROM ${here(link)}\nWHERE ${fitsHere(link)})`

/**
 * A text that says where the database stands, and what comes of it; to be read {@link here}.
 * @param others what is to be said before that, and when
 */
export function says(
  { way, number, before }: ChainLink,
  joined: Joined,
  others: readonly [when: string, text: string][] = []
): string {
  const from = way === 'up' ? before : number
  const at = from === 0 ? 'empty' : `at version ${from}`
  const stands = { sql: 'stands' }
  const next = { sql: way === 'up' ? '(stands + 1)' : 'stands' }
  const isDone = joined(['Nothing to do: this database is at version ', stands, ' already.'])
  const elsewhere = joined([
    'Nothing was done: this database is at version ',
    stands,
    `, not ${at}. Run ${way} of version `,
    next,
    ' first.'
  ])
  return choice(
    [
      ['changed IS NOT NULL', saysChanged(joined)],
      ...others,
      [`stands ${way === 'up' ? '>=' : '<'} ${number}`, isDone],
      [`stands <> ${from}`, elsewhere]
    ],
    `Version ${number}, ${way}: this database is ${at}.`
  )
}

/** What is said where a database was to be brought up to date; to be read {@link here}. */
export const saysUpToDate = ({ number }: ChainLink, joined: Joined): string =>
  choice(
    [
      ['changed IS NOT NULL', saysChanged(joined)],
      [`stands >= ${number}`, joined(['This database is at version ', { sql: 'stands' }, '.'])]
    ],
    `This database did not come as far as version ${number}.`
  )

const saysChanged = (joined: Joined): string =>
  joined([
    'Nothing was done: version ',
    { sql: 'changed' },
    ' was changed after it was run here. Make the change a version of its own.'
  ])

const choice = (cases: readonly [when: string, text: string][], otherwise: string): string =>
  [
    'CASE',
    ...cases.map(([when, text]) => `  WHEN ${when}\n    THEN ${text}`),
    `  ELSE ${quoteText(otherwise)}`,
    'END'
  ].join('\n')

/** What is said, as a query of one row. */
export const saying = (link: ChainLink, text: string): string => `SELECT ${text} AS says\nFROM ${here(link)}`

/** What is said when a way is done. */
export const done = ({ way, number, before }: ChainLink): string =>
  way === 'up'
    ? `Done: this database is at version ${number}.`
    : `Done: this database is ${before === 0 ? 'empty again' : `at version ${before} again`}.`

/**
 * What notes that the way was run.
 * @param only where it was done in another transaction: the condition that it is done
 * @param from what stands in FROM, where the engine wants something there
 */
export function notes(link: ChainLink, only?: string, from = ''): string {
  const { account, design, way, number, marks } = link
  const own = `design = ${quoteText(design)} AND version = ${number}`
  if (way === 'down') return `DELETE FROM ${account} WHERE ${own}${only === undefined ? '' : ` AND ${only}`}`
  const checksum = marks.find((each) => each.number === number)?.checksum ?? ''
  const where =
    only === undefined ? '' : ` WHERE ${only} AND NOT EXISTS (SELECT 1 FROM ${account} noted WHERE ${own})`
  return `INSERT INTO ${account} (design, version, checksum, run_at)\n  SELECT ${quoteText(design)}, ${number}, ${quoteText(checksum)}, CURRENT_TIMESTAMP${from}${where}`
}

/** Notes every version up to the link's, in one statement, where nothing was noted yet. */
export function notesAll(link: ChainLink, from = ''): string {
  const { account, design, marks } = link
  const rows = marks.map(
    ({ number, checksum }) =>
      `  SELECT ${quoteText(design)}, ${number}, ${quoteText(checksum)}, CURRENT_TIMESTAMP${from} WHERE ${isBlank(link)}`
  )
  return `INSERT INTO ${account} (design, version, checksum, run_at)\n${rows.join('\n  UNION ALL\n')}`
}

/** The condition under which nothing was noted of the design. */
const isBlank = ({ account, design }: ChainLink): string =>
  `NOT EXISTS (SELECT 1 FROM ${account} noted WHERE design = ${quoteText(design)})`

/** What is said where a database is to count as being at a version, before that is noted. */
export const saysBlank = ({ number }: ChainLink, joined: Joined): string =>
  choice(
    [
      [
        'stands > 0',
        joined(['Nothing was done: this database is at version ', { sql: 'stands' }, ' already.'])
      ]
    ],
    `This database counts as being at version ${number} from now on.`
  )

/** What is said where dropping everything was not meant. */
export const NOT_MEANT = `Nothing was done. This drops every table of the design with its rows: where you mean that, make a table called ${MEANT} first (CREATE TABLE ${MEANT} (yes int)).`

/**
 * Notes of a way and of its other that are where they lead to, for an engine that keeps each statement at
 * once: at most one of them is.
 */
export function notesOfBoth(link: ChainLink, { own, other }: WayProgress, from: string): string[] {
  const isThere = ({ done, enough }: Distance): string => `${done} >= ${enough}`
  const back = link.way === 'up' ? 'down' : 'up'
  // Where nothing changes, there and back are one.
  const isOne = own.done === other.done
  return [
    notes(link, isThere(own), from),
    ...(isOne ? [] : [notes({ ...link, way: back }, isThere(other), from)])
  ]
}

/** What is said, and when, of ways that were stopped half-way, where an engine keeps each statement at once. */
export function stoppedHalfWay(
  { way, number }: ChainLink,
  { own, other }: WayProgress,
  joined: Joined
): [when: string, text: string][] {
  const isHalf = ({ done, enough }: Distance): string => `${done} BETWEEN 0 AND ${enough - 1}`
  const back = way === 'up' ? 'down' : 'up'
  return [
    [
      isHalf(own),
      joined([
        `Version ${number}, ${way}: it was stopped after `,
        { sql: own.done },
        ` of ${own.all} statements, and goes on from there.`
      ])
    ],
    [
      isHalf(other),
      joined([
        `Version ${number}, ${way}: ${back} was stopped after `,
        { sql: other.done },
        ` of ${other.all} statements, and is taken back.`
      ])
    ]
  ]
}
