import { createInterface } from 'node:readline'
import { Writable } from 'node:stream'
import { passwordIn } from '../server/engine/address.ts'
import { readText } from './files.ts'

export interface PasswordOptions {
  url?: string | undefined
  passwordFile?: string | undefined
  askPassword?: boolean | undefined
}

/** Where a password is looked for in the environment. */
export const PASSWORD_VARIABLE = 'PATIENT_KEY_PASSWORD'

/**
 * The password for a server, from a file, a prompt or the environment; nothing where none is given, or
 * where it stands in the address, which is warned of: a list of processes shows it to everybody.
 */
export async function passwordFor({
  url,
  passwordFile,
  askPassword
}: PasswordOptions): Promise<string | undefined> {
  if (url === undefined) return undefined
  if (passwordIn(url) !== undefined) {
    process.stderr.write(
      `The password in --url can be read by everybody who lists the processes of this machine. Give it in ${PASSWORD_VARIABLE}, with --password-file, or with --ask-password.\n`
    )
  }
  if (passwordFile !== undefined) return readText(passwordFile, 10_000).replace(/\r?\n$/, '')
  return askPassword ? ask() : process.env[PASSWORD_VARIABLE]
}

/** Asks at the terminal; what is typed is not shown. */
function ask(): Promise<string> {
  process.stderr.write('Password: ')
  const silent = new Writable({ write: (_chunk, _encoding, done) => done() })
  const terminal = createInterface({ input: process.stdin, output: silent, terminal: process.stdin.isTTY })
  return new Promise((resolve) => {
    terminal.once('close', () => resolve(''))
    terminal.question('', (typed) => {
      resolve(typed)
      terminal.close()
      process.stderr.write('\n')
    })
  })
}
