import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { readDesignFile, writeDesignFile } from '../core/design/file.ts'
import type { Finding } from '../core/check/finding.ts'
import { findingsIn } from '../core/check/index.ts'
import type { Design } from '../core/design/model.ts'
import { PROVABLE } from '../core/dialect/index.ts'
import { apply } from '../core/edit/apply.ts'
import { compareDesigns } from '../core/version/compare.ts'
import { proveDesign, proveMigration, sayTrouble } from '../core/version/proof.ts'
import type { Engine } from '../server/engine/engine.ts'
import { openEngine } from '../server/engine/open.ts'
import { fernhollow } from './fernhollow.ts'

describe('the demo', () => {
  const { design, versions } = fernhollow()
  const states = [...versions.map((version) => version.design), design] as [
    Design,
    Design,
    Design,
    Design,
    Design
  ]
  const [first, second, , fourth] = states

  it('is a design file that reads back, with every cross-reference of its rows in place', () => {
    const read = readDesignFile(writeDesignFile(design, versions))
    expect(read.ok ? '' : read.message).toBe('')
    expect(second.tables.find((table) => table.name === 'dose')?.rows).toHaveLength(40)
  })

  it('tells a rename as a rename and what is carried', () => {
    const said = compareDesigns(first, second).map((change) => change.sentence)
    expect(said).toContain('patient.ring is renamed to ring_no.')
    expect(said).toContain('dose is new: a junction of admission and medicine, with 5 columns.')
    expect(said).toContain('What admission.medicine_id held is carried into dose.')
    // Who diagnosed is told of in a junction, and is none of its sides.
    expect(compareDesigns(first, fourth).map((change) => change.sentence)).toContain(
      'diagnosis is new: a junction of admission and condition, with 5 columns.'
    )
    expect(compareDesigns(fourth, design).map((change) => change.kind)).toEqual(['added', 'renamed', 'added'])
  })

  it('has one mistake in its draft, which a check finds, and none in its versions', () => {
    // What one engine has and others have not is told of, and no mistake.
    const LOST = new Set(['check that is lost', 'row policy that is lost'])
    const mistakesIn = (of: Design): Finding[] =>
      [...findingsIn(of).values()]
        .flat()
        .filter(({ severity, rule }) => severity !== 'doubtful' && !LOST.has(rule))
    for (const { design: version } of versions) expect(mistakesIn(version)).toEqual([])
    const [only, ...others] = mistakesIn(design)
    expect(others).toEqual([])
    expect(only).toMatchObject({
      rule: 'undeclared reference',
      table: 't_release',
      column: 'c_release_volunteer_id'
    })
    const mended = only?.fix && apply(design, only.fix.operation)
    expect(mended?.ok && mistakesIn(mended.design)).toEqual([])
  })

  describe.each(PROVABLE.map((dialect) => [dialect.title, dialect] as const))('on %s', (_, dialect) => {
    let engine: Engine
    beforeAll(async () => {
      engine = await openEngine(dialect)
    })
    afterAll(() => engine.close())

    it('is proven: every version, the draft, and the way from each to the next and back', async () => {
      for (const each of states)
        expect(sayTrouble(await proveDesign(each, dialect, engine.query))).toEqual([])
      for (const [at, from] of states.slice(0, -1).entries()) {
        const proof = await proveMigration(from, states[at + 1] as Design, dialect, engine.query)
        expect(sayTrouble(proof)).toEqual([])
        expect(proof.steps.every((step) => step.state === 'good')).toBe(true)
      }
    })
  })
})
