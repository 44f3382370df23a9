import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import type { Design } from '../design/model.ts'
import { planMigration } from '../version/plan.ts'
import { migrationScript } from '../version/script.ts'
import { DIALECTS } from './index.ts'
import { indented } from './indent.ts'

describe('SQL that is set in', () => {
  it.each([
    ['SELECT 1\nFROM a', 'SELECT 1\n  FROM a'],
    ["SELECT 'one\ntwo'\nFROM a", "SELECT 'one\ntwo'\n  FROM a"],
    ["SELECT 'it''s\n' , \"a\nb\"\nFROM a", "SELECT 'it''s\n' , \"a\nb\"\n  FROM a"],
    ["SELECT `o'n\neill`\nFROM [x]]\ny]", "SELECT `o'n\neill`\n  FROM [x]]\ny]"],
    ["SELECT \"o'neill\"\nFROM 'a'", "SELECT \"o'neill\"\n  FROM 'a'"]
  ])('%j', (sql, wanted) => {
    expect(indented(sql)).toBe(wanted)
  })

  it('changes no note of several lines, in any dialect', () => {
    const from = fernhollow().versions[1]?.design as Design
    const note = 'first line\nsecond; line\n\n  fourth'
    const to: Design = {
      ...from,
      tables: from.tables.map((table) => (table.id === 't_dose' ? { ...table, note } : table))
    }
    for (const dialect of Object.values(DIALECTS).filter(({ facts }) => facts.comments)) {
      const plan = planMigration(from, to, dialect)
      expect(migrationScript(plan, 'up', { from: 'a', to: 'b' })).toContain(note)
    }
  })
})
