import { homedir } from 'node:os'
import { join } from 'node:path'
import { Command, CommanderError } from 'commander'
import { whyNot } from './files.ts'
import { CannotDo, type Outcome } from './outcome.ts'
import type { DrawOptions } from './draw.ts'
import type { RehearseOptions } from './rehearsals.ts'
import type { RowsOptions } from './rows.ts'
import { PASSWORD_VARIABLE, type PasswordOptions } from './password.ts'

// What a command needs is loaded when it is called, so that each starts at once.
const commands = () => import('./commands.ts')
const rowWork = () => import('./rows.ts')
const backups = () => import('./backups.ts')

const DEFAULT_PORT = 4170

const program = new Command('patient-key')
  .description('Design related tables; write, prove and migrate them.')
  .exitOverride()
  .configureOutput({ outputError: (text) => process.stderr.write(text) })

/** Says what came of a command: words for people on standard error, JSON for programs on standard output. */
async function finish(options: { json?: boolean }, work: () => Promise<Outcome>): Promise<void> {
  const outcome = await work()
  if (options.json) process.stdout.write(`${JSON.stringify(outcome.json, null, 2)}\n`)
  else for (const line of outcome.words) process.stderr.write(`${line}\n`)
  process.exitCode = outcome.status
}

const DATA_OPTION = [
  '--data <dir>',
  'the folder with the designs',
  join(homedir(), '.local', 'share', 'patient-key')
] as const
const JSON_OPTION = ['--json', 'a machine-readable result on standard output'] as const

program
  .command('serve')
  .description('the application')
  .option('--port <n>', 'where to listen', String(DEFAULT_PORT))
  .option(
    '--host <host>',
    'the address to listen on; other than this machine, a token is asked for',
    '127.0.0.1'
  )
  .option(...DATA_OPTION)
  .option('--demo', 'put the demo in, where there is no design yet')
  .action(async (options: { port: string; host: string; data: string; demo?: boolean }) => {
    const port = Number(options.port)
    if (!Number.isInteger(port) || port < 0 || port > 65535)
      throw new CannotDo(`“${options.port}” is not a port; it is a number up to 65535.`)
    const [{ serve }, { fernhollow }] = await Promise.all([
      import('../server/serve.ts'),
      import('../demo/fernhollow.ts')
    ])
    const server = await serve({
      port,
      host: options.host,
      data: options.data,
      demo: options.demo ? fernhollow() : undefined
    })
    process.stderr.write(
      `Patient Key is at ${server.address}\nDesigns are kept in ${options.data}. Stop it with Ctrl C.\n`
    )
    for (const signal of ['SIGINT', 'SIGTERM'] as const)
      process.once(signal, () => void server.stop().then(() => process.exit(0), failed))
  })

program
  .command('demo')
  .description('writes the demo design, or one of its versions, as a design file')
  .option('-o, --output <file>', 'where to; standard output when left out')
  .option('--version <n>', 'one of its versions')
  .option(...JSON_OPTION)
  .action((options: { output?: string; version?: string; json?: boolean }) =>
    finish(options, async () => (await commands()).demo(options))
  )

program
  .command('write')
  .description('writes an output of a design')
  .argument('[design]', 'a design file')
  .option('--as <output>', 'which one')
  .option('-o, --output <path>', 'where to; standard output when left out')
  .option(
    '--check',
    'with -o DIR and no --as: only say what of all that the design gives is out of step there'
  )
  .option('--accept', 'with -o DIR and no --as: say yes to places that were not written there before')
  .option(
    '--overwrite <place>',
    'with -o DIR and no --as: also where another made the file, or changed it; may be said several times',
    (place: string, others: string[]) => [...others, place],
    [] as string[]
  )
  .option('--rows', 'with the rows that the design has, where it is SQL')
  .option('--views', 'only the views of its figures, where it is SQL')
  .option('--view <name>', 'a diagram: as a view that is kept with the design shows it')
  .option('--subject <name>', 'a diagram: of a subject, with what is beside it')
  .option('--near <table>', 'a diagram: of what is near a table')
  .option('--steps <n>', 'how far that is: 1 or 2 references')
  .option('--detail <which>', 'a diagram: columns, keys or names of each table')
  .option('--notation <ends>', 'a diagram: feet, or numbers for minimum..maximum')
  .option('--words <which>', 'a diagram: none, verbs or roles at the ends of lines')
  .option('--theme <which>', 'a diagram: light or dark')
  .option('--scale <n>', 'a PNG: pixels for each of the drawing’s own')
  .option('--pages <size>', 'a PDF: one page, or as many of a4 or a3 as it takes')
  .option(
    '--since <state>',
    'a diagram: with what is otherwise than in a design file, or a version in one: DESIGN@3'
  )
  .option('--list', 'say which outputs there are')
  .option(...JSON_OPTION)
  .action(
    (
      design: string | undefined,
      options: {
        as?: string
        output?: string
        rows?: boolean
        views?: boolean
        check?: boolean
        accept?: boolean
        overwrite: string[]
        list?: boolean
        json?: boolean
      } & DrawOptions
    ) =>
      finish(options, async () => {
        if (options.list) return (await commands()).listOutputs(design)
        if (design === undefined)
          throw new CannotDo('Say which design file to write: patient-key write DESIGN --as OUTPUT.')
        if (options.as === undefined && options.output !== undefined)
          return (await import('./tree.ts')).writeTree(design, options.output, options)
        if (options.as === undefined)
          throw new CannotDo(
            'Say what to write it as: --as OUTPUT (--list names the outputs), or -o DIR for all that it gives an application.'
          )
        if (options.check || options.accept || options.overwrite.length > 0)
          throw new CannotDo(
            '--check, --accept and --overwrite are for a whole tree: leave --as out, and say -o DIR.'
          )
        const { as, list: _, json: __, check: ___, accept: ____, overwrite: _____, ...more } = options
        return (await commands()).write(design, { as, ...more })
      })
  )

program
  .command('check')
  .description('what is wrong or doubtful in a design')
  .argument('<design>', 'a design file')
  .option('--as <dialect>', 'for one dialect; else for those that the design is written for')
  .option(...JSON_OPTION)
  .action((design: string, options: { as?: string; json?: boolean }) =>
    finish(options, async () => (await commands()).check(design, options))
  )

program
  .command('prove')
  .description("runs a design's SQL on a real engine and compares what it reads back")
  .argument('<design>', 'a design file')
  .requiredOption('--on <engine>', 'sqlite, postgresql or mariadb')
  .option(
    '--url <url>',
    `a server to prove it on, with an empty database, as in postgresql://user@localhost:5432/trial; its password is taken from ${PASSWORD_VARIABLE}`
  )
  .option('--password-file <file>', 'a file with the password')
  .option('--ask-password', 'ask for the password')
  .option(...JSON_OPTION)
  .action((design: string, options: { on: string; json?: boolean } & PasswordOptions) =>
    finish(options, async () => (await commands()).prove(design, options))
  )

program
  .command('rehearse')
  .description("what a statement would do to the design's rows, step by step")
  .argument('<design>', 'a design file')
  .option('--delete <table>', 'deletes the row of the table with the key')
  .option('--change <table>', 'changes the row of the table with the key')
  .option('--insert <table>', 'puts a row into the table')
  .option('--key <json>', 'which row: 3, ["A", 3], or by columns, {"ward_code": "A", "pen_no": 3}')
  .option('--to <json>', 'what becomes of its columns, as in {"ward_code": "B"}')
  .option('--row <json>', 'what is put in, by columns; of others their defaults')
  .option('--as <dialect>', 'as which engine does it; else the first that the design is written for')
  .option('--on <engine>', 'the same on sqlite, postgresql or mariadb, compared')
  .option(
    '--url <url>',
    `a server to run it on, with an empty database; its password is taken from ${PASSWORD_VARIABLE}`
  )
  .option('--password-file <file>', 'a file with the password')
  .option('--ask-password', 'ask for the password')
  .option(...JSON_OPTION)
  .action((design: string, options: RehearseOptions & { json?: boolean }) =>
    finish(options, async () => (await import('./rehearsals.ts')).rehearse(design, options))
  )

const rows = program
  .command('rows')
  .description("a design's sample rows: CSV in and out, the missing pairs of a junction")
const TABLE_OPTION = ['--table <table>', 'of which table'] as const

rows
  .command('export')
  .description('the rows of a table as CSV')
  .argument('<design>', 'a design file')
  .requiredOption(...TABLE_OPTION)
  .option('-o, --output <file>', 'where to; standard output when left out')
  .option('--separator <character>', 'between fields; a comma when left out')
  .option('--labels', 'with a column for what each reference is called')
  .option(...JSON_OPTION)
  .action((design: string, options: RowsOptions & { json?: boolean }) =>
    finish(options, async () => (await rowWork()).exportRows(design, options))
  )

rows
  .command('import')
  .description('takes the rows of a CSV file in; lines that do not fit are listed')
  .argument('<design>', 'a design file')
  .argument('<file>', 'a CSV file')
  .requiredOption(...TABLE_OPTION)
  .option('-o, --output <file>', 'the design file to write; the same when left out')
  .option('--separator <character>', 'between fields; recognised when left out')
  .option(...JSON_OPTION)
  .action((design: string, file: string, options: RowsOptions & { json?: boolean }) =>
    finish(options, async () => (await rowWork()).importRows(design, { ...options, file }))
  )

rows
  .command('fill')
  .description('puts the pairs into a junction that it lacks')
  .argument('<design>', 'a design file')
  .requiredOption(...TABLE_OPTION)
  .option(
    '--where <condition>',
    'only rows of a side that meet a condition, as in "volunteer: name like \'A%\'"; may be said twice',
    (value: string, before: string[] = []) => [...before, value]
  )
  .option('--as <dialect>', 'says it as SQL for a database instead')
  .option('-o, --output <file>', 'the file to write; the same design when left out')
  .option(...JSON_OPTION)
  .action((design: string, options: RowsOptions & { json?: boolean }) =>
    finish(options, async () => (await rowWork()).fillRows(design, options))
  )

rows
  .command('generate')
  .description('makes believable rows, by their types, names, keys and rules')
  .argument('<design>', 'a design file')
  .option('--table <table>', 'for one table; else for all')
  .option('--rows <n>', 'how many for each; 100 when left out')
  .option('--seed <n>', 'the same seed makes the same rows; 1 when left out')
  .option('-o, --output <file>', 'the design file to write; the same when left out')
  .option(...JSON_OPTION)
  .action((design: string, options: RowsOptions & { json?: boolean }) =>
    finish(options, async () => (await rowWork()).makeRows(design, options))
  )

program
  .command('plan')
  .description('writes the migration between two states of a design, or all its versions as a chain')
  .argument('<from>', 'the design file to start from, or a version in one: DESIGN@3')
  .argument('[to]', 'the design file, or version, to end at; none with --chain')
  .requiredOption('--as <dialect>', 'sqlite, postgresql, mariadb, sqlserver or oracle')
  .requiredOption('-o, --output <dir>', 'the folder to write to')
  .option(
    '--chain',
    'all versions as scripts, from nothing to the last and back, each of which looks first where a database stands'
  )
  .option('--prove', 'run it on the engine, up, down and up again; on sqlite, postgresql and mariadb')
  .option(...JSON_OPTION)
  .action(
    (
      from: string,
      to: string | undefined,
      options: { as: string; output: string; prove?: boolean; chain?: boolean; json?: boolean }
    ) =>
      finish(options, async () => {
        if (options.chain && to !== undefined)
          throw new CannotDo('A chain has all versions of one design: name one file, or leave --chain out.')
        if (options.chain && options.prove)
          throw new CannotDo('A chain is not proven as a whole: prove one migration, without --chain.')
        if (options.chain) return (await commands()).planChain(from, options)
        if (to === undefined)
          throw new CannotDo('Say where to: patient-key plan FROM TO, or --chain for all versions of FROM.')
        return (await commands()).plan(from, to, options)
      })
  )

program
  .command('backup')
  .description('writes all designs with their versions into one file')
  .requiredOption('-o, --output <file>', 'where to')
  .option(...DATA_OPTION)
  .option(...JSON_OPTION)
  .action((options: { output: string; data: string; json?: boolean }) =>
    finish(options, async () => (await backups()).backup(options))
  )

program
  .command('restore')
  .description('takes the designs of such a file in')
  .argument('<file>', 'what backup wrote')
  .option(...DATA_OPTION)
  .option(...JSON_OPTION)
  .action((file: string, options: { data: string; json?: boolean }) =>
    finish(options, async () => (await backups()).restore(file, options))
  )

/**
 * Says what could not be done, in one line, and ends. Where it is this program's own mistake, DEBUG shows
 * where.
 */
function failed(error: unknown): void {
  process.exitCode = 2
  if (error instanceof CommanderError) process.exitCode = error.exitCode === 0 ? 0 : 2
  else if (error instanceof CannotDo || (error instanceof Error && error.name === 'CannotServe'))
    process.stderr.write(`${error.message}\n`)
  else if (process.env.DEBUG) throw error
  else
    process.stderr.write(
      `Something went wrong in Patient Key itself: ${error instanceof Error ? error.message : String(error)} (DEBUG=1 shows where.)\n`
    )
}

// Who reads no more has what they wanted; whatever else hinders is said.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code === 'EPIPE') process.exit(0)
  process.stderr.write(`Standard output cannot be written${whyNot(error)}.\n`)
  process.exit(2)
})

try {
  await program.parseAsync()
} catch (error) {
  failed(error)
}
