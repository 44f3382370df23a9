import { spawn, type ChildProcess } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { createServer, type AddressInfo } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { writeDesignFile } from '../core/design/file.ts'
import type { Design } from '../core/design/model.ts'

const ROOT = fileURLToPath(new URL('..', import.meta.url))

/** A port that nothing listens on. */
export async function freePort(): Promise<number> {
  const server = createServer()
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve))
  const { port } = server.address() as AddressInfo
  await new Promise((resolve) => server.close(resolve))
  return port
}

/**
 * The application as a process of its own, with a data folder of its own; it can be killed and started
 * again on the same.
 */
export class App {
  private process: ChildProcess | undefined
  private port = 0
  readonly data = mkdtempSync(join(tmpdir(), 'patient-key-test-'))
  private readonly demo: boolean
  private readonly host: string | undefined
  /** What is asked for where others can reach the server. */
  token = ''

  /** @param host the address to listen on, where that is not this machine’s alone */
  constructor({ demo = false, host }: { demo?: boolean; host?: string } = {}) {
    this.demo = demo
    this.host = host
  }

  async start(): Promise<this> {
    this.port = await freePort()
    await this.run()
    return this
  }

  get address(): string {
    return `http://127.0.0.1:${this.port}`
  }

  async run(): Promise<void> {
    const words = [
      '--port',
      String(this.port),
      '--data',
      this.data,
      ...(this.demo ? ['--demo'] : []),
      ...(this.host ? ['--host', this.host] : [])
    ]
    const started = spawn('bin/patient-key', ['serve', ...words], {
      cwd: ROOT,
      stdio: ['ignore', 'ignore', 'pipe']
    })
    this.process = started
    let said = ''
    await new Promise<void>((resolve, reject) => {
      started.stderr?.on('data', (text: Buffer) => {
        said += text.toString()
        if (!said.includes('Patient Key is at')) return
        this.token = /\?token=(\S+)/.exec(said)?.[1] ?? ''
        resolve()
      })
      started.once('exit', (code) => reject(new Error(`the application ended with ${code}: ${said}`)))
    })
  }

  /** The draft as the server has it: of the design named, or of the one changed last. */
  async design(id?: string): Promise<Design> {
    const ask = async <T>(path: string): Promise<T> =>
      (await (await fetch(`${this.address}/api/designs${path}`)).json()) as T
    const wanted = id ?? (await ask<{ designs: { id: string }[] }>('')).designs[0]?.id ?? ''
    return (await ask<{ design: Design }>(`/${wanted}`)).design
  }

  /** Takes a design in, as a file is taken in, and gives the address that it has from then on. */
  async put(design: Design): Promise<string> {
    const answer = await fetch(`${this.address}/api/files`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: writeDesignFile(design)
    })
    if (answer.status !== 201) throw new Error(`the design was not taken in: ${await answer.text()}`)
    return `${this.address}/d/${((await answer.json()) as { design: Design }).design.id}`
  }

  /** Ends the process at once, as a power cut would. */
  async kill(): Promise<void> {
    const { process } = this
    if (!process || process.exitCode !== null || process.signalCode !== null) return
    const ended = new Promise((resolve) => process.once('exit', resolve))
    process.kill('SIGKILL')
    await ended
  }

  /** Asks the process to end, and gives the status that it ends with. */
  async end(): Promise<number | null> {
    const { process } = this
    if (!process) return null
    const ended = new Promise<number | null>((resolve) => process.once('exit', resolve))
    process.kill('SIGTERM')
    return ended
  }

  async stop(): Promise<void> {
    await this.kill()
    rmSync(this.data, { recursive: true, force: true })
  }
}
