import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { readDesignFile, writeDesignFile } from '../core/design/file.ts'
import { DIALECTS } from '../core/dialect/index.ts'
import { compareDesigns } from '../core/version/compare.ts'
import { proveDesign, proveMigration, sayTrouble } from '../core/version/proof.ts'
import type { Engine } from '../server/engine/engine.ts'
import { openPostgresql } from '../server/engine/postgresql.ts'
import { openSqlite } from '../server/engine/sqlite.ts'
import { fernhollow } from './fernhollow.ts'

describe('the demo', () => {
  const { design, versions } = fernhollow()
  const [first, second] = versions.map((version) => version.design)
  if (!first || !second) throw new Error('versions are missing')

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
    expect(compareDesigns(second, design).map((change) => change.kind)).toEqual(['added', 'renamed'])
  })

  describe.each([['sqlite', openSqlite], ['postgresql', openPostgresql]] as const)('on %s', (name, open) => {
    let engine: Engine
    beforeAll(async () => { engine = await open() })
    afterAll(() => engine.close())

    it('is proven: both versions, the draft, and the way from each to the next and back', async () => {
      for (const each of [first, second, design]) expect(sayTrouble(await proveDesign(each, DIALECTS[name], engine.query))).toEqual([])
      for (const [from, to] of [[first, second], [second, design]] as const) {
        const proof = await proveMigration(from, to, DIALECTS[name], engine.query)
        expect(sayTrouble(proof)).toEqual([])
        expect(proof.steps.map((step) => step.state)).toEqual(Array(8).fill('good'))
      }
    })
  })
})
