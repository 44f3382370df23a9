import fc from 'fast-check'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { findingsIn } from '../../core/check/index.ts'
import { tableOf } from '../../core/design/directory.ts'
import { readDesignFile, writeDesignFile } from '../../core/design/file.ts'
import type { Design, Ruling, Verdict } from '../../core/design/model.ts'
import { DIALECTS } from '../../core/dialect/index.ts'
import { apply } from '../../core/edit/apply.ts'
import type { Operation } from '../../core/edit/operation.ts'
import {
  fittingVerdicts,
  judgeAll,
  newlyBroken,
  ruledStatements,
  sayBroken,
  sayVerdict
} from '../../core/rehearse/ruling.ts'
import { rulebookOf } from '../../core/rehearse/rules.ts'
import { rehearse } from '../../core/rehearse/run.ts'
import { proveDesign, sayTrouble } from '../../core/version/proof.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { times } from '../../tests/times.ts'
import { Draws, drawnDesign, drawnTrial } from '../../tests/trials.ts'
import type { Engine } from './engine.ts'
import { openEngine } from './open.ts'

const numbers = fc.array(fc.nat(9999), { minLength: 700, maxLength: 700 })
const { facts, name } = DIALECTS.sqlite

/** A random design with a ruling for every verdict that fits a random trial, and one that fits none of it. */
function drawn(list: readonly number[]): { design: Design; good: Ruling[]; bad: Ruling } | undefined {
  const draws = new Draws(list)
  const design = { ...drawnDesign(draws, facts), dialects: [name] }
  const trial = drawnTrial(draws, design, facts)
  const statements = ruledStatements(design, trial)
  if (statements.length === 0 || statements.length < trial.statements.length) return undefined
  const { together, deferring } = trial
  const rehearsed = rehearse(design, rulebookOf(design, DIALECTS.sqlite), trial)
  const ruling = (id: string, verdict: Verdict): Ruling => ({
    id,
    says: `ruling ${id}`,
    statements,
    together,
    ...(deferring && { deferring }),
    verdict
  })
  const good = fittingVerdicts(design, rehearsed).map((verdict, at) => ruling(`u_${at}`, verdict))
  const bad = ruling('u_bad', rehearsed.refusals.length > 0 ? { is: 'taken' } : { is: 'refused' })
  return { design: { ...design, rulings: [...good, bad] }, good, bad }
}

const isBroken = (design: Design): string[] =>
  judgeAll(design).flatMap((each) => (sayBroken(design, each) === undefined ? [] : [each.ruling.id]))

describe('rulings', () => {
  it('are kept where they say what comes of it, broken where they say the contrary, and survive names', () => {
    const seen = new Map<Verdict['is'], number>()
    fc.assert(
      fc.property(numbers, (list) => {
        const found = drawn(list)
        if (!found) return
        const { design, good } = found
        for (const { verdict } of good) seen.set(verdict.is, (seen.get(verdict.is) ?? 0) + 1)
        expect(isBroken(design)).toEqual(['u_bad'])
        const renames = design.tables.flatMap((table): Operation[] => [
          { kind: 'table.rename', table: table.id, name: `${table.name}_now` },
          ...table.columns.map((column): Operation => ({
            kind: 'column.rename',
            table: table.id,
            column: column.id,
            name: `${column.name}_now`
          }))
        ])
        const renamed = apply(design, { kind: 'batch', operations: renames })
        expect(renamed.ok && isBroken(renamed.design)).toEqual(['u_bad'])
        const read = readDesignFile(writeDesignFile(design))
        expect(read.ok && read.value.design.rulings).toEqual(design.rulings)
      }),
      { numRuns: times(200) }
    )
    for (const is of ['taken', 'refused', 'takes along'] as const)
      expect([is, (seen.get(is) ?? 0) > 10]).toEqual([is, true])
  })

  it('of the demo are kept; a rule that breaks one names it, and taking it back mends it', () => {
    const { design } = fernhollow()
    expect(isBroken(design)).toEqual([])
    const result = apply(design, {
      kind: 'foreignKey.setActions',
      table: 't_admission',
      foreignKey: 'f_admission_patient_id',
      onDelete: 'CASCADE',
      onUpdate: 'CASCADE'
    })
    const changed = result.ok ? result.design : expect.fail()
    expect(newlyBroken(design, changed).map(({ ruling }) => ruling.id)).toEqual(['u_patient_admitted'])
    const told = [...findingsIn(changed).values()].flat().filter(({ rule }) => rule === 'broken ruling')
    expect(told.map(({ table, severity }) => [table, severity])).toEqual([['t_patient', 'wrong']])
    expect(told[0]?.message).toContain('A patient that was admitted is not deleted.')
    const back = result.ok && apply(changed, result.inverse)
    expect(back && back.ok && isBroken(back.design)).toEqual([])
  })

  it('that name what is gone cannot be tried, and say so', () => {
    const { design } = fernhollow()
    const note = tableOf(design, 't_carer_note') ?? expect.fail()
    const gone = apply(design, {
      kind: 'rows.change',
      table: note.id,
      changed: [],
      gone: note.rows.map((row, at) => ({ at, row })),
      come: []
    })
    const without = gone.ok ? gone.design : expect.fail()
    expect(isBroken(without)).toEqual(['u_note_goes'])
    const dropped = apply(design, { kind: 'table.remove', table: 't_dose' })
    const told = dropped.ok
      ? judgeAll(dropped.design).find(({ untried }) => untried !== undefined)
      : undefined
    expect(told?.untried).toBe('A table that it is about is gone.')
  })

  it('go and come back byte for byte', () => {
    const { design } = fernhollow()
    for (const { id } of design.rulings ?? []) {
      const removed = apply(design, { kind: 'ruling.remove', ruling: id })
      const back = removed.ok && apply(removed.design, removed.inverse)
      expect(back && back.ok && JSON.stringify(back.design)).toBe(JSON.stringify(design))
    }
  })

  it('are kept through a change of mind, or told of by name', () => {
    const { design } = fernhollow()
    const rekeyed = apply(design, {
      kind: 'column.rename',
      table: 't_finder',
      column: 'c_finder_finder_id',
      name: 'number'
    })
    expect(rekeyed.ok && newlyBroken(design, rekeyed.design)).toEqual([])
    const lost = apply(design, {
      kind: 'check.remove',
      table: 't_dose',
      check: 'x_dose_quantity'
    })
    const broken = lost.ok ? newlyBroken(design, lost.design) : []
    expect(broken.map(({ ruling }) => ruling.says)).toEqual(['A dose of nothing is no dose.'])
  })
})

describe.each(['sqlite', 'postgresql', 'mariadb'] as const)('rulings in a proof, on %s', (on) => {
  const dialect = DIALECTS[on]
  let engine: Engine
  beforeAll(async () => {
    engine = await openEngine(dialect)
  })
  afterAll(() => engine.close())

  it('are tried on the engine; one that is broken fails it, and is named', async () => {
    const { design } = fernhollow()
    const good = await proveDesign(design, dialect, engine.query)
    expect(sayTrouble(good)).toEqual([])
    expect(good.steps.filter(({ name: said }) => said.includes('ruling')).length).toBe(design.rulings?.length)
    const [first] = design.rulings ?? []
    const wrong = {
      ...(first as Ruling),
      id: 'u_wrong',
      says: 'It is the other way.',
      verdict: { is: 'taken' as const }
    }
    const bad = await proveDesign({ ...design, rulings: [wrong] }, dialect, engine.query)
    expect(bad.good).toBe(false)
    expect(sayTrouble(bad).join(' ')).toContain('It is the other way.')
    expect(sayTrouble(bad).join(' ')).toContain(`expected ${sayVerdict(design, wrong)}`)
  })
})
