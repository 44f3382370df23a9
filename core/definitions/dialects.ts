import { parseType } from '../design/type.ts'
import { FUNCTIONS } from '../sql/functions.ts'
import { DIALECTS } from '../dialect/index.ts'
import { LOOSE, type Facts, type KindOfName } from '../dialect/facts.ts'

/** The logical types, as they are typed, that the page of dialects shows. */
const SHOWN = [
  'smallint',
  'integer',
  'bigint',
  'decimal(8,2)',
  'float',
  'boolean',
  'text',
  'text(80)',
  'char(6)',
  'date',
  'time',
  'timestamp',
  'timestamp zone',
  'interval',
  'uuid',
  'json',
  'binary',
  'binary(16)',
  'enum'
]

const yes = (on: boolean): string => (on ? 'yes' : 'no')
const KINDS: Record<KindOfName, string> = {
  table: 'tables',
  column: 'columns',
  schema: 'schemas',
  list: 'lists of values',
  rule: 'keys and rules'
}
const FACTS: [words: string, say: (facts: Facts) => string][] = [
  [
    'oldest versions to write for',
    ({ versions: { all, usual } }) =>
      all.map((version) => (version === usual ? `${version} (where none is said)` : version)).join(', ')
  ],
  ['an engine runs here', (facts) => yes(facts.runs)],
  ['longest name', ({ nameLimit }) => (nameLimit ? `${nameLimit.most} ${nameLimit.of}` : 'any')],
  ['a name without quotes', ({ folds }) => (folds === 'not' ? 'stays as it is' : `becomes ${folds} case`)],
  ['words of its own', ({ reserved }) => String(reserved.size)],
  [
    'schemas',
    ({ schemas, ownSchema }) =>
      yes(schemas) + (ownSchema === undefined ? '' : `; ${ownSchema} is there already`)
  ],
  [
    'keeps some names for itself',
    ({ kept = {} }) =>
      Object.keys(kept)
        .map((kind) => KINDS[kind as KindOfName])
        .join(', ') || 'no'
  ],
  ['notes in the catalog', (facts) => yes(facts.comments)],
  ['row policies', (facts) => yes(facts.rowPolicies)],
  ['indexes on some of the rows', (facts) => yes(facts.partialIndexes)],
  [
    'longest key',
    ({ key }) =>
      key && key.bytes < Infinity ? `${key.bytes.toLocaleString('en')} bytes, ${key.columns} columns` : 'any'
  ],
  [
    'a key too long is refused',
    ({ key }) =>
      !key || key.bytes === Infinity
        ? ''
        : key.refuses === 'made'
          ? 'when it is made'
          : 'when a row is too long'
  ],
  [
    'two empty values in a unique key',
    ({ emptyInKey }) =>
      ({
        apart: 'both are let in',
        same: 'count as equal',
        'same beside others': 'count as equal where something else of the key is filled'
      })[emptyInKey]
  ],
  ['counts by itself', ({ counts }) => counts],
  ['deferrable references', (facts) => yes(facts.deferrable)],
  ['triggers at the end of a transaction', (facts) => yes(facts.deferredTriggers)],
  [
    'SET NULL on a required column',
    ({ emptyingRequired }) => (emptyingRequired === 'table' ? 'the table is refused' : 'the row is refused')
  ],
  [
    'a column is computed from one that is',
    ({ computed }) => (computed.fromComputed ? 'yes' : 'written out')
  ],
  ['a computed column in the primary key', ({ computed }) => (computed.inPrimaryKey ? 'taken' : 'refused')],
  [
    'a computed column is changed by a reference',
    ({ references }) =>
      references.changingComputed === 'table' ? 'the table is refused' : 'the row is refused'
  ],
  ['most columns of a table', ({ mostColumns }) => mostColumns.toLocaleString('en')],
  ['two indexes on the same columns', ({ sameIndexTwice }) => (sameIndexTwice ? 'taken' : 'refused')],
  ['the same reference twice', ({ sameReferenceTwice }) => (sameReferenceTwice ? 'taken' : 'refused')],
  ['a trigger copies, and renews', ({ triggers }) => (triggers.lacks === undefined ? 'yes' : 'no')],
  [
    'a trigger fills what is required',
    ({ triggers }) => (triggers.lacks === undefined && triggers.fillsRequired ? 'yes' : 'no')
  ],
  [
    'an action runs',
    ({ actions }) => (actions.runs === 'with each row' ? 'with each row' : 'once all rows are changed')
  ],
  [
    'NO ACTION is looked at',
    ({ actions }) =>
      ({
        'with the row': 'at once, as RESTRICT',
        'in turn': 'in its turn behind the statement',
        'at the end': 'at the end of the statement'
      })[actions.looks]
  ],
  [
    'of several references to a table comes first',
    ({ actions }) =>
      ({
        'first made': 'the one made first',
        'last made': 'the one made last',
        'by key and name': 'by the key referred to, then by name'
      })[actions.turns]
  ],
  ['checks hold for what an action changes', ({ actions }) => yes(actions.checksActions)],
  [
    'an action changes a table again that a change came through',
    ({ actions }) => (actions.changesAgain ? 'yes' : 'refused')
  ],
  [
    'most steps of a delete',
    ({ actions }) => (actions.deepest === undefined ? 'any' : actions.deepest.toLocaleString('en'))
  ],
  [
    'a transaction can defer',
    ({ actions, deferrable }) =>
      !deferrable ? 'nothing' : actions.defers === 'all' ? 'every reference' : 'what is deferrable'
  ],
  ['two cascades that meet', ({ manyCascadePaths }) => (manyCascadePaths ? 'allowed' : 'refused')],
  [
    'a failed migration is taken back',
    (facts) => (facts.rollsBack ? 'as a whole' : 'no: each statement stays')
  ],
  [
    'actions it does not have',
    ({ lacks }) => lacks.map(({ action, on }) => `${action} on ${on.join(' and ')}`).join('; ') || 'none'
  ]
]

/**
 * What each dialect can and how it writes each type, as a page of Markdown, made from what the writers
 * ask.
 */
export function dialectPage(): string {
  const all = Object.values(DIALECTS)
  const row = (cells: string[]): string => `| ${cells.join(' | ')} |`
  const head = [row(['', ...all.map((dialect) => dialect.title)]), row(['---', ...all.map(() => '---')])]
  const facts = FACTS.map(([words, say]) => row([words, ...all.map((dialect) => say(dialect.facts))]))
  const losses: string[] = []
  const types = SHOWN.map((text) => {
    const parsed = parseType(text, [{ id: 'e_list', name: 'enum', values: [] }])
    return row([
      `\`${text === 'enum' ? 'enum housing' : text}\``,
      ...all.map((dialect) => {
        const words = dialect.type(parsed.ok ? parsed.value : { kind: 'text' }, {
          ...LOOSE,
          values: ['cage', 'pool'],
          listName: 'housing'
        })
        if (words.loss && !losses.includes(words.loss)) losses.push(words.loss)
        return `\`${words.sql}\`${words.holds ? ` with a check: \`${words.holds('v')}\`` : ''}${words.loss ? ` (${losses.indexOf(words.loss) + 1})` : ''}`
      })
    ])
  })
  return [
    '# The dialects',
    '',
    'What each engine can, and how each logical type is written for it. Made from what the checks and writers ask',
    '(`core/dialect/*/`) by `npm run schema`; a test keeps the two the same.',
    '',
    ...head,
    ...facts,
    '',
    '## What is meant everywhere',
    '',
    'Whole numbers divide into a whole one, and what is left over has the sign of what is divided. A moment with a',
    'zone is seen in UTC where it meets one without. In a pattern only `%` and `_` stand for others, unless ESCAPE says',
    'how they stand for themselves. A text of fixed length ends where its last character does that is no blank. Each',
    'dialect writes what it must so that this holds (`core/dialect/typed.ts`, `core/sql/like.ts`).',
    '',
    '## Functions of expressions',
    '',
    'In checks, computed columns, defaults, conditions of indexes and row policies:',
    '',
    ...Object.entries(FUNCTIONS).map(
      ([name, { takes, says }]) => `- \`${name}(${takes.join(', ')})\`: ${says}`
    ),
    '- `native(app.may_see(ward_code))`: a function of the engines’ own, and where they differ for each',
    '  `native(postgresql: app.may_see(ward_code); oracle: may_see(ward_code))`. Where a dialect is not named, what it',
    '  stands in is left out there, and told of.',
    '',
    '## What is renewed, and what is copied',
    '',
    'A column that is renewed becomes the present moment with each change of its row that says nothing else of it. MariaDB',
    'and MySQL have that in the column itself for a timestamp without a zone, and do it where a value becomes another; a',
    'trigger does it at each update. Rows that a reference changes by itself run no trigger in MariaDB. A column that is',
    'copied gets what the row referred to holds where a new row says nothing of it; `again`: also where the row refers to',
    'another, unless the update says something of it; `fixed`: whatever else is said is refused. A migration moves rows',
    'while no such trigger is there, and says of what MariaDB and MySQL renew by themselves that it stays as it is.',
    '',
    '## What a statement does',
    '',
    'What a delete, a change of a key or a new row does along references is worked out for each engine by itself',
    '(`core/rehearse`) and held to SQLite, PostgreSQL and MariaDB by random designs, rows and statements, to the row and to',
    'the refusal. Where they differ, with the standard’s words in the design:',
    '',
    '- PostgreSQL acts behind the statement, in the order in which its references were made. NO ACTION that has its turn',
    '  before a cascade which would have taken the row along refuses it; SQLite looks at the end and does not. The look after',
    '  SET DEFAULT is never deferred.',
    '- SQLite acts row by row, the reference made last first. `PRAGMA defer_foreign_keys`, which is how a transaction defers',
    '  there, defers references that are not deferrable too, and RESTRICT with them. A delete goes 999 steps.',
    '- MariaDB and MySQL look with each row, so that NO ACTION is RESTRICT. Rows are come to in the order of their keys; of',
    '  several references the one to the primary key comes first, then by name. A row that refers to itself is in its own way',
    '  with RESTRICT, unless its reference is the beginning of its primary key. A row whose key changes is neither here nor',
    '  there until all that follows is done: another reference to it, where that is in the primary key too, fails; its own to',
    '  itself holds where it is referred to as before. Checks are',
    '  not looked at for what an action changes. A change of a key that comes back to a table it came through is refused, a',
    '  delete goes 14 steps. Of several reasons for one refusal another may be named than is worked out.',
    '- SQL Server and Oracle run nowhere here: they are taken to act row by row and to look at the end of the statement, as',
    '  their manuals have it.',
    '',
    '## Read, and not run',
    '',
    'SQL Server, Oracle and MySQL are held to their manuals. What is written for MySQL is run by MariaDB in the tests, which',
    'takes its procedures and conditions, with the order of texts called otherwise. For the other two, random designs with',
    'computed columns, references, keys, filters and conditions of all kinds were read line by line for: conditions and',
    'truth values told apart, and what cannot be told kept apart from false; columns computed from computed ones; dates in',
    'what is computed and kept; the type of what is computed, rounded and not cut; filters of indexes, the types of what',
    'they compare, and computed columns in them; types and lengths of what refers; the same reference twice; keys that are',
    'referred to and may be empty; actions that meet, need a default, or change what is computed; lengths of keys, and types',
    'that stand in none; two indexes on one list of columns; large texts that are compared; empty values and empty texts;',
    'blanks at the end; brackets in patterns; what ends a batch or a statement within a note; lines and texts that are longer',
    'than a client or a literal takes; rows with numbers of their own; and the settings that the clients begin with.',
    'Told of, and not written around: SQL Server takes large and small letters for the same where the database does (its',
    'script says so when it runs), and counts some characters as two; Oracle before 23 has no truth values.',
    '',
    '## Types',
    '',
    ...head,
    ...types,
    '',
    ...losses.map((loss, at) => `${at + 1}. ${loss}`),
    ''
  ].join('\n')
}
