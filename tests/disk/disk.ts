import { execFileSync, spawn, type ChildProcess } from 'node:child_process'
import { cpSync, existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { basename, dirname, join, relative } from 'node:path'
import { fileURLToPath } from 'node:url'

/**
 * What programs do with the disk while tests look: it fails as told, it is written down, its power is cut.
 */

const HERE = dirname(fileURLToPath(import.meta.url))
const ROOT = join(HERE, '..', '..')

/** A folder of a test's own; gone with the last of them. */
export class Folders {
  private readonly made: string[] = []

  make(name = 'disk'): string {
    const folder = mkdtempSync(join(tmpdir(), `patient-key-${name}-`))
    this.made.push(folder)
    return folder
  }

  remove(): void {
    for (const folder of this.made.splice(0)) rmSync(folder, { recursive: true, force: true })
  }
}

/** Builds the library that stands between a program and its disk. */
export function buildFaults(folder: string): string {
  const library = join(folder, 'faults.so')
  execFileSync(
    'cc',
    ['-shared', '-fPIC', '-O1', '-o', library, join(HERE, 'faults.c'), '-ldl', '-lpthread'],
    { stdio: 'inherit' }
  )
  return library
}

/** Runs a program of this folder in a process of its own. */
export function run(
  program: string,
  args: readonly string[],
  env: Record<string, string> = {}
): ChildProcess {
  return spawn(process.execPath, ['--import', 'tsx', join(HERE, program), ...args], {
    cwd: ROOT,
    stdio: ['ignore', 'pipe', 'inherit'],
    env: { ...process.env, ...env }
  })
}

/** One change of the disk, in the order in which they were made. */
type Change =
  | { kind: 'w'; path: string; offset: number; bytes: Buffer }
  | { kind: 't'; path: string; length: number }
  | { kind: 's' | 'u'; path: string }
  | { kind: 'm'; path: string; to: string }

export function readTrace(file: string): Change[] {
  const all = readFileSync(file)
  const changes: Change[] = []
  for (let at = 0; at < all.length;) {
    const end = all.indexOf('\n', at)
    const [kind = '', path = '', offset = '0', length = '0'] = all.subarray(at, end).toString().split(' ')
    at = end + 1
    const size = Number(length)
    if (kind === 't') changes.push({ kind, path, length: size })
    else if (kind === 'w' || kind === 'm') {
      const bytes = all.subarray(at, at + size)
      at += size
      changes.push(
        kind === 'w' ? { kind, path, offset: Number(offset), bytes } : { kind, path, to: bytes.toString() }
      )
    } else changes.push({ kind: kind as 's' | 'u', path })
  }
  return changes
}

/** A file as a disk has it: what is safe, and what was written since the last sync. */
interface Disk {
  safe: Buffer
  since: Change[]
}

/**
 * The folder as it may be found after the power was cut before the nth change: all that was synced is
 * there; what was written since may be, in any order, whole or in part, or not at all. Names and renames
 * are kept in order, as a file system's journal keeps them.
 * @param chance gives numbers from 0 up to 1
 */
export function afterPowerCut(
  changes: readonly Change[],
  before: number,
  from: string,
  to: string,
  chance: () => number
): void {
  const files = new Map<string, Disk>()
  const file = (path: string): Disk => {
    const known = files.get(path)
    if (known) return known
    const made: Disk = { safe: Buffer.alloc(0), since: [] }
    files.set(path, made)
    return made
  }
  for (const change of changes.slice(0, before)) {
    if (change.kind === 'u') files.delete(change.path)
    else if (change.kind === 'm') {
      files.set(change.to, file(change.path))
      files.delete(change.path)
    } else if (change.kind === 's') {
      // A folder is synced as well, for the names in it.
      const disk = files.get(change.path)
      if (!disk) continue
      disk.safe = disk.since.reduce(applied, disk.safe)
      disk.since = []
    } else file(change.path).since.push(change)
  }
  for (const [path, disk] of files) {
    const kept = disk.since.filter(() => chance() < 0.6).sort(() => chance() - 0.5)
    const bytes = kept.map((change) => torn(change, chance)).reduce(applied, disk.safe)
    const place = join(to, relative(from, path))
    mkdirSync(dirname(place), { recursive: true })
    writeFileSync(place, bytes)
  }
}

/** A write that only began: sectors of 512 bytes are whole or not there. */
function torn(change: Change, chance: () => number): Change {
  if (change.kind !== 'w' || change.bytes.length <= 512 || chance() < 0.7) return change
  return {
    ...change,
    bytes: change.bytes.subarray(0, 512 * Math.ceil(chance() * (change.bytes.length / 512 - 1)))
  }
}

function applied(bytes: Buffer, change: Change): Buffer {
  if (change.kind === 't')
    return Buffer.concat([
      bytes.subarray(0, change.length),
      Buffer.alloc(Math.max(0, change.length - bytes.length))
    ])
  if (change.kind !== 'w') return bytes
  const end = change.offset + change.bytes.length
  const next = Buffer.alloc(Math.max(bytes.length, end))
  bytes.copy(next)
  change.bytes.copy(next, change.offset)
  return next
}

/** What was acknowledged before a point of the trace, by the lines that the program wrote when it was. */
export function acknowledgedBefore(changes: readonly Change[], before: number): string[] {
  const said = changes
    .slice(0, before)
    .flatMap((change) =>
      change.kind === 'w' && basename(change.path) === 'acknowledged' ? [change.bytes.toString()] : []
    )
  return said
    .join('')
    .split('\n')
    .filter((line) => line !== '')
}

export function copyFolder(from: string, to: string): string {
  cpSync(from, to, { recursive: true })
  return to
}

export const has = (folder: string, name: string): boolean => existsSync(join(folder, name))
