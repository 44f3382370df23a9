import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import fc from 'fast-check'
import * as sequelize from 'sequelize'
import sqlite3 from 'sqlite3'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { writeSql } from '../../core/definitions/create-script.ts'
import { toSequelize } from '../../core/definitions/sequelize.ts'
import { emptyDesign, emptyTable, type Design } from '../../core/design/model.ts'
import { DIALECTS } from '../../core/dialect/index.ts'
import { fernhollow } from '../../demo/fernhollow.ts'
import { choices, grow } from '../../tests/designs.ts'
import { owned } from '../../tests/owned.ts'
import { times } from '../../tests/times.ts'
import { runModule } from '../../tests/typescript.ts'

type Models = Record<string, sequelize.ModelStatic<sequelize.Model>>
type Plain = Record<string, unknown>

function defined(design: Design, storage = ':memory:'): { connection: sequelize.Sequelize; models: Models } {
  const connection = new sequelize.Sequelize({ dialect: 'sqlite', storage, logging: false })
  const { defineModels } = runModule(toSequelize(design), { sequelize })
  const define = defineModels as (on: sequelize.Sequelize) => Models
  return { connection, models: define(connection) }
}

describe('models for Sequelize', () => {
  const design = owned(fernhollow().design)
  const folder = mkdtempSync(join(tmpdir(), 'patient-key-sequelize-'))
  const file = join(folder, 'fernhollow.sqlite')
  let models: Models
  let connection: sequelize.Sequelize
  const of = (name: string): Models[string] => models[name] ?? expect.fail(`no model ${name}`)
  const plain = (row: sequelize.Model | null): Plain => row?.get({ plain: true }) as Plain

  beforeAll(async () => {
    const made = new sqlite3.Database(file)
    await new Promise<void>((resolve, reject) =>
      made.exec(writeSql(design, DIALECTS.sqlite, { rows: true }), (error) =>
        error ? reject(error) : resolve()
      )
    )
    await new Promise((resolve) => made.close(resolve))
    ;({ models, connection } = defined(design, file))
  })
  afterAll(async () => {
    await connection.close()
    rmSync(folder, { recursive: true, force: true })
  })

  it('read real rows along both directions of a relationship', async () => {
    const admission = plain(
      await of('Admission').findOne({ where: { admissionId: 1 }, include: ['patient', 'doses', 'reason'] })
    )
    const patient = admission.patient as Plain
    expect(typeof patient.wardName).toBe('string')
    const back = plain(
      await of('Patient').findOne({
        where: { patientId: patient.patientId as number },
        include: ['admissions']
      })
    )
    expect((back.admissions as Plain[]).map(({ admissionId }) => admissionId)).toContain(1)
    const doses = design.tables.find(({ name }) => name === 'dose')?.rows ?? []
    const its = doses.filter((row) => row.c_dose_admission_id === 1)
    expect((admission.doses as Plain[]).length).toBe(its.length)
    expect(its.length).toBeGreaterThan(0)
  })

  it('lead across a junction both ways, attach and detach', async () => {
    const across = (name: string, model: string): string =>
      Object.values(of(model).associations).find(
        ({ associationType, target }) => associationType === 'BelongsToMany' && target.name === name
      )?.as ?? expect.fail(`${model} has no many ${name}`)
    const [conditions, admissions] = [across('Condition', 'Admission'), across('Admission', 'Condition')]
    const [diagnosis] = await of('Diagnosis').findAll({ limit: 1 })
    const { admissionId, conditionId } = plain(diagnosis ?? null)
    const admission = await of('Admission').findByPk(admissionId as number, { include: [conditions] })
    expect((plain(admission)[conditions] as Plain[]).map((each) => each.conditionId)).toContain(conditionId)
    const condition = await of('Condition').findByPk(conditionId as number, { include: [admissions] })
    expect((plain(condition)[admissions] as Plain[]).map((each) => each.admissionId)).toContain(admissionId)
    const pair = { admissionId, conditionId } as Record<string, number>
    await of('Diagnosis').destroy({ where: pair })
    expect(await of('Diagnosis').count({ where: pair })).toBe(0)
    await of('Diagnosis').create({ ...plain(diagnosis ?? null) })
    expect(await of('Diagnosis').count({ where: pair })).toBe(1)
  })

  it('write rows with what the database gives left out, and refuse what it needs', async () => {
    const made = await of('Finder').create({ name: 'Wren Halloway' })
    const row = plain(await of('Finder').findByPk(plain(made).finderId as number))
    expect(row).toMatchObject({ name: 'Wren Halloway', telephone: null })
    await expect(of('Finder').create({ telephone: '0300 5550' })).rejects.toThrow(/name/)
  })

  it('say nothing of a key where there is none, also where a column is called id', () => {
    const keyless = {
      ...emptyTable('note', 't_note'),
      columns: [{ id: 'c_id', name: 'id', type: { kind: 'text' as const }, required: true }]
    }
    const { models: those } = defined({ ...emptyDesign('Notes'), tables: [keyless] })
    expect(those.Note?.getAttributes()).toMatchObject({ id_: { field: 'id' } })
    expect(those.Note?.primaryKeyAttributes).toEqual([])
  })

  it('are taken by Sequelize whatever the design and its names', () => {
    const designs = fc.sample(choices(60, 20), { numRuns: times(200), seed: 15 }).map((taken) => grow(taken))
    let [tables, associations] = [0, 0]
    for (const each of designs) {
      const { models: those } = defined(each)
      tables += Object.keys(those).length
      for (const model of Object.values(those)) associations += Object.keys(model.associations).length
      expect(Object.keys(those)).toHaveLength(each.tables.length)
    }
    expect(tables).toBeGreaterThan(times(200) * 3)
    expect(associations).toBeGreaterThan(times(200))
  })
})
