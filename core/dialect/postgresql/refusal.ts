import type { EngineRefusal } from '../dialect.ts'

/** Class 23 of the codes of errors (PostgreSQL manual, Appendix A). */
const KINDS: Record<string, EngineRefusal['kind']> = {
  '23001': 'reference',
  '23502': 'required',
  '23503': 'reference',
  '23505': 'key',
  '23514': 'check'
}

export function refusal(error: unknown): EngineRefusal | undefined {
  const { code = '', constraint } = error as { code?: string; constraint?: string }
  const kind = KINDS[code] ?? (code.startsWith('23') ? 'other' : undefined)
  return kind && { kind, ...(constraint !== undefined && { name: constraint }) }
}
