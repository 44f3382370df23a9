import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { tableOf } from '../design/directory.ts'
import { readDesignFile, writeDesignFile } from '../design/file.ts'
import { SHAPES, type Design, type Usual } from '../design/model.ts'
import { apply } from '../edit/apply.ts'
import { proposeJunction, proposeRelationship } from './propose.ts'
import { proposeRule, shapeOf } from './rules.ts'

const { design: demo } = fernhollow()
const saying = (usual: Usual | null): Design => {
  const result = apply(demo, { kind: 'design.setUsual', usual })
  return result.ok ? result.design : expect.fail(result.refusal.message)
}
const references = demo.tables.flatMap((child) => child.foreignKeys.map((key) => ({ child, key })))

describe('what deletes usually do', () => {
  it('is said by shape, or by the table deleted from, and goes before what is proposed', () => {
    const usual: Usual = {
      shapes: { part: 'RESTRICT', pair: 'NO ACTION' },
      tables: { t_admission: 'SET DEFAULT' }
    }
    const design = saying(usual)
    const seen = new Set<string>()
    for (const { child, key } of references) {
      const shape = shapeOf(design, child, key)
      const { onDelete } = proposeRule(design, child, key)
      const said = usual.tables[key.table] ?? usual.shapes[shape]
      expect([child.name, onDelete]).toEqual([child.name, said ?? proposeRule(demo, child, key).onDelete])
      seen.add(shape)
    }
    expect([...seen].sort()).toEqual([...SHAPES].sort())
  })

  it('empties nothing that is required', () => {
    const design = saying({ shapes: { needed: 'SET NULL' }, tables: {} })
    for (const { child, key } of references)
      if (shapeOf(design, child, key) === 'needed')
        expect(proposeRule(design, child, key).onDelete).not.toBe('SET NULL')
  })

  it('is proposed for what is related from then on', () => {
    const design = saying({ shapes: { pair: 'RESTRICT' }, tables: { t_ward: 'NO ACTION' } })
    const made = proposeRelationship(design, {
      parent: 't_ward',
      child: 't_finder',
      required: false,
      single: false
    })
    expect(made?.onDelete).toBe('NO ACTION')
    const [first, second] = ['t_volunteer', 't_patient'].map((id) => tableOf(design, id) ?? expect.fail())
    const junction = proposeJunction(design, first ?? expect.fail(), second ?? expect.fail())
    expect(junction.sides.map(({ onDelete }) => onDelete)).toEqual(['RESTRICT', 'RESTRICT'])
  })

  it('is kept in the file, taken back byte for byte, and left out where nothing is said', () => {
    const usual: Usual = { shapes: { list: 'NO ACTION' }, tables: { t_ward: 'RESTRICT' } }
    const set = apply(demo, { kind: 'design.setUsual', usual })
    const design = set.ok ? set.design : expect.fail()
    const read = readDesignFile(writeDesignFile(design))
    expect(read.ok && read.value.design.usual).toEqual(usual)
    const back = set.ok && apply(design, set.inverse)
    expect(back && back.ok && writeDesignFile(back.design)).toBe(writeDesignFile(demo))
    expect('usual' in saying({ shapes: {}, tables: { t_none: 'CASCADE' } })).toBe(false)
  })
})
