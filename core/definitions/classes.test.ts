import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { fernhollow } from '../../demo/fernhollow.ts'
import { lifelike } from '../../demo/lifelike.ts'
import { csharpErrors, javaErrors, phpErrors, pythonErrors } from '../../tests/compilers.ts'
import { choices, grow } from '../../tests/designs.ts'
import { times } from '../../tests/times.ts'
import { emptyDesign } from '../design/model.ts'
import { toCsharp } from './csharp.ts'
import { toJakarta } from './jakarta.ts'
import type { CodeFile } from './made-by.ts'
import { toPhp } from './php.ts'
import { toPython } from './python.ts'

const DESIGNS = times(200)
const demo = fernhollow().design
const grown = fc.sample(choices(60, 20), { numRuns: DESIGNS, seed: 18 }).map((taken) => grow(taken))
const designs = [demo, lifelike(60), emptyDesign('Nothing', 'd_nothing'), ...grown]
const textOf = (files: readonly CodeFile[], path: string): string =>
  files.find((file) => file.path === path)?.text ?? expect.fail(`no ${path}`)
const within = (folder: string, files: readonly CodeFile[]): CodeFile[] =>
  files.map(({ path, text }) => ({ path: `${folder}/${path}`, text }))

describe('plain classes for PHP', () => {
  it('are loaded by it, whatever the design and its names', () => {
    const files = designs.flatMap((design, at) => within(`d${at}`, toPhp(design, `App\\D${at}`)))
    expect(files.length).toBeGreaterThan(DESIGNS * 3)
    expect(phpErrors(files)).toBe('')
    expect(
      phpErrors([{ path: 'a.php', text: textOf(toPhp(demo, 'App'), 'Dose.php').replace('?int', '?') }])
    ).not.toBe('')
  })

  it('have both ends of a relationship, what is needed and what may be empty', () => {
    const admission = textOf(toPhp(demo, 'App\\Data'), 'Admission.php')
    for (const line of [
      'namespace App\\Data;',
      "public const KEY = ['admissionId'];",
      'public int $admissionId;',
      'public \\DateTimeImmutable $admittedAt;',
      'public Patient $patient;',
      'public ?Finder $finder = null;',
      'public ?Release $release = null;',
      '/** @var list<Dose> Each admission has any number of doses. */'
    ])
      expect(admission).toContain(line)
  })
})

describe('data classes for Python', () => {
  it('run, and name only what there is, whatever the design and its names', () => {
    const files = designs.map((design, at) => ({ path: `d${at}.py`, text: toPython(design) }))
    expect(pythonErrors(files)).toBe('')
    expect(
      pythonErrors([{ path: 'a.py', text: toPython(demo).replace('Optional[Finder]', 'Optional[Finders]') }])
    ).toMatch(/Finders/)
  })
})

describe('plain classes for C#', () => {
  it('are taken by its compiler, whatever the design and its names', () => {
    const files = designs.map((design, at) => ({ path: `d${at}.cs`, text: toCsharp(design, `App.D${at}`) }))
    expect(csharpErrors(files)).toBe('')
    expect(
      csharpErrors([{ path: 'a.cs', text: toCsharp(demo, 'App').replace('IList<Dose>', 'IList<Doses>') }])
    ).toMatch(/Doses/)
  })
})

describe('entities for Jakarta Persistence', () => {
  it('are taken by Java’s compiler against a persistence API, whatever the design and its names', () => {
    const some = designs.slice(0, times(80))
    const files = some.flatMap((design, at) => within(`d${at}`, toJakarta(design, `app.d${at}`)))
    expect(files.length).toBeGreaterThan(some.length * 2)
    expect(javaErrors(files)).toBe('')
    const broken = toJakarta(demo, 'app').map(({ path, text }) => ({
      path,
      text: text.replaceAll('Finder ', 'Finders ')
    }))
    expect(javaErrors(broken)).toMatch(/Finders/)
  })

  it('write a reference by its object where its columns stand for nothing else, and have ids of several fields', () => {
    const files = toJakarta(demo, 'app.data')
    expect(textOf(files, 'Admission.java')).toContain(
      [
        '    @ManyToOne(fetch = FetchType.LAZY, optional = false)',
        '    @JoinColumn(name = "patient_id", referencedColumnName = "patient_id")',
        '    private Patient patient;'
      ].join('\n')
    )
    expect(textOf(files, 'Dose.java')).toContain('@IdClass(DoseId.class)')
    expect(textOf(files, 'Dose.java')).toContain(
      '@JoinColumn(name = "medicine_id", referencedColumnName = "medicine_id", insertable = false, updatable = false)'
    )
    expect(textOf(files, 'DoseId.java')).toContain('private OffsetDateTime givenAt;')
  })

  it('are many to many where a junction has nothing of its own, with one side that keeps it', () => {
    // The junction with what it says of its pairs left out.
    const bare = demo.tables.map((table) =>
      table.name === 'species_conflict'
        ? { ...table, columns: table.columns.filter(({ name }) => name.endsWith('species_code')) }
        : table
    )
    expect(textOf(toJakarta(demo, 'app.data'), 'SpeciesConflict.java')).toContain(
      '@IdClass(SpeciesConflictId.class)'
    )
    const files = toJakarta({ ...demo, tables: bare }, 'app.data')
    expect(javaErrors(files)).toBe('')
    expect(files.some(({ path }) => path === 'SpeciesConflict.java')).toBe(false)
    expect(textOf(files, 'Species.java')).toContain('@ManyToMany(mappedBy = "otherSpecies")')
    expect(textOf(files, 'Species.java')).toContain('@JoinTable(name = "species_conflict"')
  })
})
