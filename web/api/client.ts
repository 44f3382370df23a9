import type { Design, Version } from '../../core/design/model.ts'
import type { DialectName } from '../../core/dialect/dialect.ts'
import type { Operation } from '../../core/edit/operation.ts'
import type { Refusal } from '../../core/edit/refusal.ts'
import type { EngineRun } from '../../core/rehearse/on-engine.ts'
import type { Trial } from '../../core/rehearse/trial.ts'
import type { Proof } from '../../core/version/proof-step.ts'

export type VersionInfo = Omit<Version, 'design'>
export interface Summary {
  id: string
  name: string
  revision: number
  changedAt: string
  tables: number
  versions: number
  lastNote?: string
  /** Why it cannot be opened. */
  damage?: string
}
/** `mark` stands for everything that was done to the design up to there: the same mark, the same history. */
export interface Logged {
  revision: number
  mark: string
  operationId: string
  client: string
  operation: Operation
}
export interface Restored {
  came: string[]
  already: string[]
  beside: string[]
}
export type StateName = number | 'draft'
export interface ProofState {
  engine: DialectName
  title: string
  phase: 'waiting' | 'starting' | 'running' | 'done' | 'broken'
  proof?: Proof
  run?: EngineRun
  message?: string
}
export interface Job {
  id: string
  states: ProofState[]
  ended: boolean
}

/** The server could not be reached at all. */
export class Unreachable extends Error {
  constructor() {
    super('The server does not answer. What you typed is kept here and sent when it is back.')
  }
}

/** The server answered with an error; `refusal` and `between` where it was an operation that was refused. */
export class Answered extends Error {
  constructor(
    readonly status: number,
    message: string,
    readonly body: {
      error?: { refusal?: Refusal; code?: string }
      revision?: number
      mark?: string
      between?: Logged[]
    }
  ) {
    super(message)
  }
}

/**
 * How long an operation waits for its answer (milliseconds): a connection can hang without ever failing,
 * and what is sent twice is taken once.
 */
const PATIENCE = 6000

async function ask<T>(method: string, path: string, body?: unknown, patience?: number): Promise<T> {
  let response: Response
  try {
    const text = body === undefined || body instanceof Blob ? body : JSON.stringify(body)
    response = await fetch(`/api${path}`, {
      method,
      ...(patience !== undefined && { signal: AbortSignal.timeout(patience) }),
      ...(method !== 'GET' && { headers: { 'Content-Type': 'application/json' } }),
      ...(text !== undefined && { body: text })
    })
  } catch {
    throw new Unreachable()
  }
  if (response.status === 204 || response.status === 202) return undefined as T
  const read = (await response.json().catch(() => undefined)) as { error?: { message?: string } } | undefined
  // An answer that breaks off has not been given.
  if (response.ok && read === undefined) throw new Unreachable()
  const json = read ?? {}
  if (!response.ok)
    throw new Answered(
      response.status,
      json.error?.message ?? `The server answered ${response.status}.`,
      json as Answered['body']
    )
  return json as T
}

export const api = {
  /** The designs, and what the server found amiss when it was started. */
  designs: () => ask<{ designs: Summary[]; notices: string[] }>('GET', '/designs'),
  create: (body: { name: string } | { file: string }) =>
    'file' in body
      ? ask<{ design: Design }>('POST', '/files', new Blob([body.file]))
      : ask<{ design: Design }>('POST', '/designs', body),
  /** Makes a design of what is sound of a damaged one. */
  salvage: (id: string) => ask<{ design: Design }>('POST', `/designs/${id}/salvage`),
  restore: (backup: Blob) => ask<Restored>('POST', '/backup', backup),
  remove: (id: string) => ask<undefined>('DELETE', `/designs/${id}`),
  design: (id: string) =>
    ask<{ design: Design; revision: number; mark: string; versions: VersionInfo[] }>('GET', `/designs/${id}`),
  /** Where a design stands. */
  head: (id: string) => ask<{ revision: number; mark: string }>('GET', `/designs/${id}/head`),
  after: (id: string, { revision, mark }: Pick<Logged, 'revision' | 'mark'>) =>
    ask<{ operations: Logged[] }>('GET', `/designs/${id}/operations?after=${revision}&mark=${mark}`).then(
      (answer) => answer.operations
    ),
  submit: (id: string, body: Logged) =>
    ask<{ revision: number; mark: string; between: Logged[] }>(
      'POST',
      `/designs/${id}/operations`,
      body,
      PATIENCE
    ),
  version: (id: string, number: number) => ask<Version>('GET', `/designs/${id}/versions/${number}`),
  saveVersion: (id: string, body: { note: string; revision: number; only?: string[] }) =>
    ask<VersionInfo>('POST', `/designs/${id}/versions`, body),
  changeVersion: (id: string, number: number, body: { note?: string; revision?: number }) =>
    ask<VersionInfo>('PATCH', `/designs/${id}/versions/${number}`, body),
  prove: (body: {
    design: string
    to: StateName
    from?: StateName
    engines: DialectName[]
    only?: string[]
    trial?: Trial
  }) => ask<Job>('POST', '/proofs', body),
  cancelProof: (id: string) => ask<undefined>('DELETE', `/proofs/${id}`)
}
