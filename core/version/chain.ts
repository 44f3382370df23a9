import { sha256 } from '@noble/hashes/sha2.js'
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js'
import { writeDesignFile } from '../design/file.ts'
import type { Design, Version } from '../design/model.ts'
import { MEANT, type ScriptLine, type ChainLink, type VersionMark } from '../dialect/chain.ts'
import type { Dialect } from '../dialect/dialect.ts'
import { schemaOf } from '../dialect/qualified.ts'
import { accountOf } from '../dialect/restart.ts'
import { NameGiver } from '../naming/fit.ts'
import { planMigration, type MigrationPlan } from './plan.ts'
import { headOf, scriptOf, type Way } from './script.ts'

/** A file of the chain; `path` is from the folder on, with a slash between. */
export interface ChainFile {
  path: string
  text: string
}

/**
 * All versions of a design as scripts for the engine's own client, in order: for each a way up and a way
 * down that look first where the database stands, and what notes that a database stands there already; one
 * that brings up to date, and one that drops everything and runs all.
 * @param tell is told how many versions are worked out
 */
export function chainOf(
  versions: readonly Version[],
  anyVersion: Dialect,
  tell: (done: number) => void = () => undefined
): ChainFile[] {
  const [last] = versions.slice(-1)
  if (!last) return []
  const dialect = anyVersion.for(last.design)
  const places = versions.map((version, at): Place => {
    tell(at)
    const before = versions[at - 1]
    return {
      version,
      before: before?.number ?? 0,
      plan: planMigration(before?.design ?? nothingOf(version.design), version.design, dialect),
      folder: String(version.number).padStart(4, '0')
    }
  })
  return new Chain(places, last, dialect).files()
}

/** A version in the chain, with the ways from the version before it and back. */
interface Place {
  version: Version
  before: number
  plan: MigrationPlan
  folder: string
}

class Chain {
  private readonly account: string
  private readonly marks: VersionMark[]
  private readonly title: string

  constructor(
    private readonly places: readonly Place[],
    private readonly last: Version,
    private readonly dialect: Dialect
  ) {
    const versions = places.map(({ version }) => version)
    this.account = accountName(versions, dialect)
    this.marks = versions.map(markOf)
    this.title = `${last.design.name}, for ${dialect.title} ${dialect.facts.oldest} and later`
  }

  files(): ChainFile[] {
    return [
      ...this.places.flatMap((place) => [this.way(place, 'up'), this.way(place, 'down'), this.isHere(place)]),
      this.upToDate(),
      this.dropAll(),
      { path: 'README.txt', text: readme(this.places, this.account, this.title, this.dialect) }
    ]
  }

  private way(place: Place, way: Way): ChainFile {
    const ends = endsOf(place, way, this.last.design.name)
    const head = headOf(place.plan, way, ends)
    return this.file(`${place.folder}/${way}.sql`, head, this.link(place, way))
  }

  private isHere(place: Place): ChainFile {
    const head = [
      `${this.title}: notes that a database which was made otherwise is at version ${place.version.number}.`,
      'Nothing else is changed.'
    ]
    const lines = this.dialect.chain.adopt(this.linkOf(place, 'up'))
    return this.file(`${place.folder}/is-here.sql`, head, lines)
  }

  private upToDate(): ChainFile {
    const head = [
      `${this.title}: brings a database from whichever version it is at to version ${this.last.number}.`
    ]
    return this.file('up-to-date.sql', head, this.allUp())
  }

  private dropAll(): ChainFile {
    const head = [
      `${this.title}: drops every table that a version has, with its rows and all that was set aside, and runs all versions.`,
      `It asks to be meant: without a table called ${MEANT} it does nothing.`
    ]
    const everything = everythingOf(this.places, this.account, this.dialect)
    const lines = [...this.dialect.chain.dropAll(everything), ...this.accounted(this.allUp())]
    return { path: 'drop-all-and-run.sql', text: scriptOf(head, lines, this.dialect.client) }
  }

  private allUp(): ScriptLine[] {
    const ups = this.places.map((place) => ({
      link: this.linkOf(place, 'up'),
      path: `${place.folder}/up.sql`
    }))
    return this.dialect.chain.upToDate?.(ups) ?? this.places.flatMap((place) => this.link(place, 'up'))
  }

  private link(place: Place, way: Way): ScriptLine[] {
    return this.dialect.chain.link(place.plan.ways, this.linkOf(place, way))
  }

  private linkOf({ version, before }: Place, way: Way): ChainLink {
    return {
      design: this.last.design.id,
      way,
      number: version.number,
      before,
      marks: this.marks.filter(({ number }) => number <= version.number),
      account: this.dialect.quoteTable(this.account)
    }
  }

  private file(path: string, head: readonly string[], lines: readonly ScriptLine[]): ChainFile {
    return { path, text: scriptOf(head, this.accounted(lines), this.dialect.client) }
  }

  /** Behind what makes the table of account. */
  private accounted(lines: readonly ScriptLine[]): ScriptLine[] {
    return [...this.dialect.chain.account(this.dialect.quoteTable(this.account)), ...lines]
  }
}

function endsOf({ version, before }: Place, way: Way, name: string): { from: string; to: string } {
  const [from, to] = [before === 0 ? 'nothing' : `version ${before}`, `version ${version.number}`]
  return way === 'up' ? { from: `${name}, ${from}`, to } : { from: `${name}, ${to}`, to: from }
}

/** What there is before the first version. */
const nothingOf = (design: Design): Design => ({
  ...design,
  schemas: [],
  enums: [],
  tables: [],
  positions: {}
})

/** What a version is known by: its definitions and what it carries, and neither names of people's nor rows. */
function markOf({ number, design }: Version): VersionMark {
  const bare: Design = {
    ...design,
    name: 'design',
    dialects: [],
    positions: {},
    tables: design.tables.map((table) => ({ ...table, rows: [] }))
  }
  const { design: written } = JSON.parse(writeDesignFile(bare)) as { design: unknown }
  return { number, checksum: bytesToHex(sha256(utf8ToBytes(JSON.stringify(written)))).slice(0, 32) }
}

/** The table of account: one for all designs in a database, unless a version has a table of that name. */
function accountName(versions: readonly Version[], dialect: Dialect): string {
  const names = new NameGiver(dialect.facts.nameLimit, dialect.facts.refusedInNames)
  for (const { design } of versions)
    for (const table of design.tables) if (table.schema === undefined) names.give(table.name)
  return names.give('patient_key_versions')
}

function everythingOf(
  places: readonly Place[],
  account: string,
  dialect: Dialect
): Parameters<Dialect['chain']['dropAll']>[0] {
  const catalogs = places.map(({ version }) => dialect.catalog(version.design).catalog)
  const own = catalogs.flatMap(({ tables }) => tables.filter((table) => !table.external))
  const kept = places.flatMap(({ plan }) => [...plan.keepsakes.up, ...plan.keepsakes.down])
  const accounts = dialect.restart ? places.map(({ plan }) => accountOf(plan.ways)) : []
  const shared = new Set(
    catalogs.flatMap(({ tables }) =>
      tables.filter((table) => table.external).map(({ name }) => schemaOf(name))
    )
  )
  const once = (names: readonly string[]): string[] => [...new Set(names)]
  return {
    tables: once(
      [...own.map(({ name }) => name), ...kept.map(({ name }) => name), ...accounts, account].map(
        dialect.quoteTable
      )
    ),
    lists: once(catalogs.flatMap(({ enums }) => enums.map(({ name }) => dialect.quoteTable(name)))),
    // Where another system has a table, the schema is not the design's alone.
    schemas: once(
      catalogs.flatMap(({ schemas }) => schemas.map(({ name }) => name)).filter((name) => !shared.has(name))
    ).map(dialect.quote)
  }
}

function readme(places: readonly Place[], account: string, title: string, dialect: Dialect): string {
  const { run } = dialect.chain
  const versions = places.map(
    ({ folder, version }) =>
      `  ${folder}/  version ${version.number}${version.note === '' ? '' : `: ${version.note.split('\n')[0]}`}`
  )
  return [
    `${title}: all versions as scripts`,
    '',
    ...versions,
    '',
    `Run them in this folder with ${dialect.title}'s own client: ${run}`,
    '',
    '  up-to-date.sql        brings a database to the last version, whichever it is at',
    '  NNNN/up.sql           from the version before to this one',
    '  NNNN/down.sql         back to the version before; what was written since is set aside',
    '  NNNN/is-here.sql      notes that a database which was made otherwise is at this version',
    `  drop-all-and-run.sql  drops everything and begins anew; only where a table called drop_everything is there`,
    '',
    `The table ${account} holds which versions were run in a database, when, and a checksum of each.`,
    'Each script looks there first, and says what it did or why it did nothing.',
    ...(dialect.chain.upToDate
      ? [
          'A script that does nothing ends with an error: the client cannot pass over the rest of it. up-to-date.sql can; it writes which script comes next into next.sql.'
        ]
      : []),
    ...(dialect.engine
      ? []
      : [`The scripts are worked out, and not run: no ${dialect.title} runs where they were written.`]),
    ''
  ].join('\n')
}
