import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { readDesignFile, writeDesignFile } from '../core/design/file.ts'
import { DIALECTS } from '../core/dialect/index.ts'
import { compareDesigns } from '../core/version/compare.ts'
import { proveDesign, proveMigration } from '../core/version/proof.ts'
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
      for (const each of [first, second, design]) expect(await proveDesign(each, DIALECTS[name], engine.query)).toMatchObject({ good: true })
      const steps = (await proveMigration(first, second, DIALECTS[name], engine.query)).steps
      expect(steps.filter((step) => step.state !== 'good')).toEqual([])
      expect(steps).toHaveLength(8)
      expect((await proveMigration(second, design, DIALECTS[name], engine.query)).good).toBe(true)
    })
  })
})
