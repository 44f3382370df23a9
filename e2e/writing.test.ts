import { describe, expect, it } from 'vitest'
import { writeDesignFile } from '../core/design/file.ts'
import { emptyDesign, type Design, type Table } from '../core/design/model.ts'
import { newTable } from '../core/relate/propose.ts'
import { fernhollow } from '../demo/fernhollow.ts'
import { By, Key } from './browser.ts'
import { session } from './session.ts'

/**
 * What is typed in the ledger: nonsense, which stays as it was typed with a word beside it, and all that a
 * table can have besides columns.
 */
describe('writing in the ledger', () => {
  const { app, browser } = session()

  async function open(design: Design, table: string): Promise<void> {
    await browser.open(`${await app.put(design)}/ledger/${table}`)
    await browser.untilLineHasKeyboard()
  }
  const table = async (id: string, design: string): Promise<Table> =>
    (await app.design(design)).tables.find((each) => each.id === id) ?? expect.fail(`no table ${id}`)
  /** Types in the place of what stands in the field. */
  async function instead(...keys: string[]): Promise<void> {
    await browser.chord(Key.CONTROL, 'a')
    await browser.type(...keys)
  }
  const typed = (cell: string): Promise<string> =>
    browser.driver.executeScript(
      'return document.querySelector(".sheet:focus-within .line.writing input[data-cell=" + arguments[0] + "]")?.value ?? ""',
      cell
    )

  it.each([
    ['a type that is none', ['weight', Key.TAB, 'heavy', Key.ENTER], 'type', 'heavy', 'is not a type'],
    ['a length of nothing', ['weight', Key.TAB, 'text(0)', Key.ENTER], 'type', 'text(0)', '1 to 65535'],
    [
      'a scale beyond the precision',
      ['weight', Key.TAB, 'decimal(2,5)', Key.ENTER],
      'type',
      'decimal(2,5)',
      'no more of them after the point'
    ],
    [
      'a default that does not fit',
      ['weight', Key.TAB, 'smallint', Key.TAB, Key.TAB, '99999', Key.ENTER],
      'default',
      '99999',
      'the largest is 32767'
    ],
    [
      'an expression that does not parse',
      ['weight', Key.TAB, 'integer', Key.TAB, Key.TAB, 'computed patient_id +', Key.ENTER],
      'default',
      'computed patient_id +',
      'Something is missing at the end'
    ],
    [
      'an expression that would be more',
      ['weight', Key.TAB, 'integer', Key.TAB, Key.TAB, '= 1; DROP TABLE patient', Key.ENTER],
      'default',
      '= 1; DROP TABLE patient',
      'cannot stand there'
    ],
    [
      'an engine’s type that would be more',
      ['weight', Key.TAB, 'native int) , (x int', Key.ENTER],
      'type',
      'native int) , (x int',
      'words and lengths'
    ],
    [
      'a name that is far too long',
      ['n'.repeat(400), Key.TAB, 'integer', Key.ENTER],
      'name',
      'n'.repeat(400),
      'at most 128 characters'
    ]
  ])(
    '%s stays as it was typed, with a word beside it, until it is put right',
    async (_, keys, cell, text, words) => {
      const before = (await open({ ...fernhollow().design, id: 'd_nonsense' }, 't_patient'),
      await table('t_patient', 'd_nonsense')).columns.length
      await browser.type('n', ...keys)
      await browser.says(words, '.line .slip')
      expect(await typed(cell)).toBe(text)
      expect((await table('t_patient', 'd_nonsense')).columns).toHaveLength(before)
      await browser.type(Key.ESCAPE)
      await browser.until(
        'it can be left',
        async () => (await browser.driver.findElements(By.css('.line .slip'))).length === 0
      )
    }
  )

  it('names in emoji, from right to left and with quotes are names, and quoted wherever they are written', async () => {
    await open(
      { ...emptyDesign('Odd', 'd_odd'), tables: [{ ...newTable('first'), id: 't_first' }] },
      't_first'
    )
    await browser.type(
      'n',
      '🦔',
      Key.TAB,
      'text(9)',
      Key.ENTER,
      'قنفذ',
      Key.TAB,
      'one of "a", it\'s, b;--',
      Key.ENTER,
      'a"b; DROP TABLE first; --',
      Key.TAB,
      'integer',
      Key.ENTER,
      Key.ESCAPE
    )
    await browser.until(
      'they are columns',
      async () => (await table('t_first', 'd_odd')).columns.length === 4
    )
    await browser.type('q')
    for (const [dialect, quoted] of [
      ['PostgreSQL', '"a""b; DROP TABLE first; --"'],
      ['MariaDB', '`a"b; DROP TABLE first; --`'],
      ['SQLite', '"a""b; DROP TABLE first; --"'],
      ['SQL Server', '[a"b; DROP TABLE first; --]'],
      ['Oracle', '"au22b; DROP TABLE first; --"']
    ] as const) {
      const labels = await browser.driver.findElements(By.css('.strip label'))
      for (const label of labels) if ((await label.getText()) === dialect) await label.click()
      await browser.says(quoted, '.strip .cm-content')
    }
  })

  it('checks, indexes and row policies are lines of text, named by the policy until somebody names them', async () => {
    await open({ ...fernhollow().design, id: 'd_rules' }, 't_patient')
    await browser.type('c')
    await browser.until(
      'the check has the keyboard',
      async () => (await browser.focused()) === 'New check of patient'
    )
    await instead("found_on > '2026-02-30'", Key.ENTER)
    await browser.says('is not a date', '.rule .slip')
    await instead("found_on > '2020-01-01'", Key.ENTER)
    await browser.until(
      'the check is there, once',
      async () => (await table('t_patient', 'd_rules')).checks.length === 1
    )
    await browser.until('the line has the keyboard again', async () =>
      (await browser.focused()).startsWith('patient_id,')
    )
    await browser.type(Key.END, Key.ARROW_UP, 'i')
    await browser.until(
      'the index is there',
      async () => (await table('t_patient', 'd_rules')).indexes.length === 1
    )
    const index = await browser.named('input', 'index of patient')
    await index.click()
    await instead('unique found_at desc, ring_no where ring_no is not null', Key.ENTER)
    await browser.until(
      'it is another',
      async () => (await table('t_patient', 'd_rules')).indexes[0]?.unique === true
    )
    await (await browser.named('input', 'Name of the index')).click()
    await browser.type('patient_place', Key.ENTER)
    await browser.until(
      'it is named',
      async () => (await table('t_patient', 'd_rules')).indexes[0]?.name === 'patient_place'
    )
    await browser.click('button', 'remove the check')
    await browser.until(
      'the check is gone',
      async () => (await table('t_patient', 'd_rules')).checks.length === 0
    )
  })

  it('a generated key takes the place of a natural one, and a unique key its place, with what refers to it', async () => {
    await open({ ...fernhollow().design, id: 'd_keys' }, 't_reason')
    await browser.click('button', 'generated key instead')
    await browser.until('what refers to it refers by the number', async () =>
      (await table('t_admission', 'd_keys')).columns.some((column) => column.name === 'reason_id')
    )
    await browser.click('button', 'make it the primary key: reason_code')
    await browser.until('and by the code again', async () =>
      (await table('t_admission', 'd_keys')).columns.some((column) => column.name === 'reason_code')
    )
    await browser.chord(Key.CONTROL, 'z')
    await browser.chord(Key.CONTROL, 'z')
    await browser.until(
      'two undone steps give the demo again',
      async () =>
        writeDesignFile(await app.design('d_keys')) ===
        writeDesignFile({ ...fernhollow().design, id: 'd_keys' })
    )
  })

  it('what the ledger begins with is changed where it is read: dialects, the naming policy, lists of values, schemas', async () => {
    await open({ ...fernhollow().design, id: 'd_head' }, 't_species')
    await browser.driver.executeScript('document.querySelector(".page").scrollTo(0, 0)')
    await browser.click('label', 'Oracle')
    await browser.until('Oracle is one of them', async () =>
      (await app.design('d_head')).dialects.includes('oracle')
    )
    await browser.click('button', 'change the policy')
    await browser.driver.executeScript('document.querySelector("input[value=lowerCamel]").click()')
    await browser.says('names of what there is would change', '.preview')
    await browser.click('button', 'Rename what there is as well')
    await browser.until('everything is renamed in one step', async () =>
      (await app.design('d_head')).tables.some((each) => each.name === 'carerNote')
    )
    await browser.chord(Key.CONTROL, 'z')
    await browser.until('and back in one', async () =>
      (await app.design('d_head')).tables.some((each) => each.name === 'carer_note')
    )
    const values = await browser.named('input', 'Values of level')
    await values.click()
    await instead('learning, trusted', Key.ENTER)
    await browser.says('Row 1 of volunteer_skill holds "teaching" in level', '.notices')
    expect(await values.getAttribute('value')).toBe('learning, trusted')
    await values.click()
    await instead('learning, trusted, teaching, retired', Key.ENTER)
    await browser.until(
      'a value is added',
      async () => (await app.design('d_head')).enums[1]?.values.includes('retired') ?? false
    )
    await (await browser.named('input', 'Name of a new schema')).click()
    await browser.type('archive', Key.ENTER)
    await browser.until('a schema is there', async () =>
      (await app.design('d_head')).schemas.some((each) => each.name === 'archive')
    )
  })
})
