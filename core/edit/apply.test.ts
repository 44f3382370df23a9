import { toJunction } from '../restructure/to-junction.ts'
import { made } from '../../tests/made.ts'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { choices, Maker } from '../../tests/designs.ts'
import { writeDesignFile, readDesignFile } from '../design/file.ts'
import { flawsOf } from '../design/integrity.ts'
import { columnOf, tableOf } from '../design/directory.ts'
import { emptyDesign, type Design } from '../design/model.ts'
import { newTable, proposeJunction, proposeRelationship } from '../relate/propose.ts'
import { apply } from './apply.ts'
import { describe as say } from './describe.ts'
import { operationSchema } from './all.ts'
import type { Operation } from './operation.ts'
import { times } from '../../tests/times.ts'

function run(design: Design, ...operations: Operation[]): Design {
  return operations.reduce((current, operation) => {
    const result = apply(current, operation)
    if (!result.ok) throw new Error(result.refusal.message)
    return result.design
  }, design)
}

describe('any sequence of operations', () => {
  it('undone gives the same bytes, redone gives them again, and never leaves a flaw', () => {
    fc.assert(
      fc.property(choices(40), (taken) => {
        const maker = new Maker()
        let design = emptyDesign('Fernhollow', 'd_test')
        const past: { before: string; inverse: Operation }[] = []
        for (const choice of taken) {
          const operation = maker.operation(design, choice)
          expect(operationSchema.safeParse(operation).error).toBeUndefined()
          expect(say(design, operation)).not.toBe('')
          const result = apply(design, operation)
          if (!result.ok) continue
          past.push({ before: writeDesignFile(design), inverse: result.inverse })
          design = result.design
          expect(flawsOf(design)).toEqual([])
        }
        const end = writeDesignFile(design)
        const redo: Operation[] = []
        for (const { before, inverse } of past.reverse()) {
          expect(operationSchema.safeParse(inverse).error).toBeUndefined()
          const undone = apply(design, inverse)
          if (!undone.ok) throw new Error(undone.refusal.message)
          design = undone.design
          redo.push(undone.inverse)
          expect(writeDesignFile(design)).toBe(before)
        }
        for (const operation of redo.reverse()) design = run(design, operation)
        expect(writeDesignFile(design)).toBe(end)
      }),
      { numRuns: times(300) }
    )
  })

  it('never changes the design that it was given, and files read back as they were written', () => {
    fc.assert(
      fc.property(choices(30), (taken) => {
        const maker = new Maker()
        let design = emptyDesign('Fernhollow', 'd_test')
        for (const choice of taken) {
          const before = JSON.stringify(design)
          const result = apply(design, maker.operation(design, choice))
          expect(JSON.stringify(design)).toBe(before)
          if (result.ok) design = result.design
        }
        const text = writeDesignFile(design)
        const read = readDesignFile(text)
        if (!read.ok) throw new Error(read.message)
        expect(writeDesignFile(read.value.design)).toBe(text)
      }),
      { numRuns: times(100) }
    )
  })
})

describe('an offer with a refusal', () => {
  it('can be carried out, or leads on to another, and comes to an end', () => {
    let followed = 0
    fc.assert(
      fc.property(choices(60, 30), (taken) => {
        const maker = new Maker()
        let design = emptyDesign('Fernhollow', 'd_test')
        for (const choice of taken) {
          let result = apply(design, maker.operation(design, choice))
          for (let tries = 0; !result.ok && result.refusal.offers[0]; tries++) {
            expect(tries).toBeLessThan(6)
            followed++
            result = apply(design, result.refusal.offers[0].operation)
          }
          if (result.ok) design = result.design
        }
      }),
      { numRuns: times(100) }
    )
    expect(followed).toBeGreaterThan(100)
  })
})

describe('a relationship', () => {
  const admission = newTable('admission')
  const medicine = newTable('medicine')
  const start = run(
    emptyDesign('Fernhollow'),
    { kind: 'table.add', table: admission },
    { kind: 'table.add', table: medicine }
  )

  it('gives the foreign key columns the type of the key, not generated, and they follow it', () => {
    const related = run(
      start,
      proposeRelationship(start, {
        parent: medicine.id,
        child: admission.id,
        required: true,
        single: false
      }) as Operation
    )
    const [key] = medicine.columns
    const changed = run(related, {
      kind: 'column.retype',
      table: medicine.id,
      column: key?.id as string,
      type: { kind: 'integer', size: 'big' }
    })
    expect(tableOf(changed, admission.id)?.columns.at(-1)).toMatchObject({
      name: 'medicine_id',
      type: { kind: 'integer', size: 'big' },
      required: true
    })
  })

  it('between many and many makes a junction whose key is the pair, in one step', () => {
    const made = run(start, {
      kind: 'relationship.addJunction',
      junction: proposeJunction(start, admission, medicine)
    })
    const junction = made.tables.at(-1)
    expect(junction?.columns.map((column) => [column.name, column.required, column.default])).toEqual([
      ['admission_id', true, undefined],
      ['medicine_id', true, undefined]
    ])
    expect(junction?.primaryKey?.columns).toEqual(junction?.columns.map((column) => column.id))
    expect(junction?.foreignKeys.map((each) => each.onDelete)).toEqual(['CASCADE', 'CASCADE'])
  })

  it('resolved to a junction carries what the column held', () => {
    const related = run(
      start,
      proposeRelationship(start, {
        parent: medicine.id,
        child: admission.id,
        required: false,
        single: false
      }) as Operation
    )
    const table = tableOf(related, admission.id)
    const [id, reference] = table?.columns.map((column) => column.id) as [string, string]
    const [medicineKey] = medicine.columns.map((column) => column.id) as [string]
    const filled = run(
      related,
      { kind: 'table.setRows', table: medicine.id, rows: [{ [medicineKey]: 7 }] },
      { kind: 'table.setRows', table: admission.id, rows: [{ [id]: 1, [reference]: 7 }, { [id]: 2 }] }
    )
    const current = tableOf(filled, admission.id)
    const foreignKey = current?.foreignKeys[0]
    if (!current || !foreignKey) throw new Error('no reference')
    const resolved = run(
      filled,
      made(toJunction(filled, current, foreignKey, proposeJunction(filled, current, medicine)))
    )
    const junction = resolved.tables.at(-1)
    expect(junction?.rows.map((row) => Object.values(row))).toEqual([[1, 7]])
    expect(columnOf(tableOf(resolved, admission.id) as never, reference)).toBeUndefined()
    expect(resolved.carries).toHaveLength(1)
  })

  it('to a table without a key is refused, with the key offered', () => {
    const bare = run(start, { kind: 'key.setPrimary', table: medicine.id, key: null })
    const result = apply(
      bare,
      proposeRelationship(bare, {
        parent: medicine.id,
        child: admission.id,
        required: true,
        single: false
      }) as Operation
    )
    expect(result).toMatchObject({ ok: false, refusal: { code: 'no-key', where: { table: medicine.id } } })
    if (!result.ok) expect(result.refusal.offers[0]?.label).toBe('Make medicine_id the key of medicine')
  })

  it('keeps its column from being removed, with the offer to remove both', () => {
    const related = run(
      start,
      proposeRelationship(start, {
        parent: medicine.id,
        child: admission.id,
        required: true,
        single: false
      }) as Operation
    )
    const column = tableOf(related, admission.id)?.columns.at(-1)?.id as string
    const result = apply(related, { kind: 'column.remove', table: admission.id, column })
    if (result.ok) throw new Error('was not refused')
    expect(result.refusal.code).toBe('in-use')
    const both = run(related, result.refusal.offers[0]?.operation as Operation)
    expect(tableOf(both, admission.id)?.foreignKeys).toEqual([])
    expect(tableOf(both, admission.id)?.columns).toHaveLength(1)
  })
})

describe('a name', () => {
  const patient = newTable('patient')
  const start = run(emptyDesign('Fernhollow'), { kind: 'table.add', table: patient })
  it.each([
    ['empty', '', 'needed'],
    ['doubled but for case', 'Patient', 'already'],
    ['with a zero byte', 'a\u0000b', 'control'],
    ['of 10,000 characters', 'x'.repeat(10_000), 'at most 128'],
    ['padded', ' padded', 'space']
  ])('that is %s is refused in plain words', (_, name, word) => {
    const result = apply(start, { kind: 'table.add', table: { ...newTable('x'), name } })
    expect(result).toMatchObject({ ok: false, refusal: { message: expect.stringContaining(word) as string } })
  })
})
