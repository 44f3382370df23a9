import { emptyDesign, type Design, type Table } from '../core/design/model.ts'
import { makeTable } from './make-table.ts'

/**
 * The tables of one district's hospital: name, columns besides the key, and what it refers to (in its own
 * district, or `species` of all).
 */
const HOSPITAL: [name: string, columns: [string, string][], refersTo: string[]][] = [
  [
    'ward',
    [
      ['name', 'text(40)'],
      ['housing', 'text(20)']
    ],
    []
  ],
  [
    'pen',
    [
      ['pen_no', 'smallint'],
      ['capacity', 'smallint']
    ],
    ['ward']
  ],
  [
    'finder',
    [
      ['name', 'text(80)'],
      ['telephone', 'text(24)'],
      ['postcode', 'text(10)']
    ],
    []
  ],
  [
    'patient',
    [
      ['ring_no', 'text(12)'],
      ['ward_name', 'text(40)'],
      ['found_on', 'date']
    ],
    ['species']
  ],
  [
    'admission',
    [
      ['admitted_at', 'timestamp zone'],
      ['weight_g', 'integer']
    ],
    ['patient', 'finder']
  ],
  [
    'stay',
    [
      ['started_at', 'timestamp zone'],
      ['ended_at', 'timestamp zone']
    ],
    ['admission', 'pen']
  ],
  [
    'medicine',
    [
      ['name', 'text(60)'],
      ['unit', 'text(10)'],
      ['unit_cost', 'decimal(8,2)']
    ],
    []
  ],
  [
    'dose',
    [
      ['given_at', 'timestamp zone'],
      ['quantity', 'decimal(6,2)']
    ],
    ['admission', 'medicine']
  ],
  ['condition', [['name', 'text(60)']], []],
  [
    'diagnosis',
    [
      ['severity', 'smallint'],
      ['diagnosed_on', 'date']
    ],
    ['admission', 'condition']
  ],
  [
    'volunteer',
    [
      ['name', 'text(80)'],
      ['since', 'date']
    ],
    []
  ],
  ['skill', [['name', 'text(40)']], []],
  ['volunteer_skill', [['level', 'smallint']], ['volunteer', 'skill']],
  [
    'shift',
    [
      ['starts_at', 'timestamp'],
      ['ends_at', 'timestamp']
    ],
    ['ward']
  ],
  ['shift_volunteer', [['came', 'boolean']], ['shift', 'volunteer']],
  [
    'release_site',
    [
      ['name', 'text(60)'],
      ['grid_reference', 'char(8)']
    ],
    []
  ],
  ['release', [['released_on', 'date']], ['admission', 'release_site']],
  [
    'carer_note',
    [
      ['written_at', 'timestamp zone'],
      ['body', 'text']
    ],
    ['admission', 'volunteer']
  ],
  [
    'feed',
    [
      ['name', 'text(40)'],
      ['stocked', 'decimal(8,3)']
    ],
    []
  ],
  [
    'meal',
    [
      ['served_at', 'timestamp zone'],
      ['grams', 'integer']
    ],
    ['stay', 'feed']
  ]
]

/**
 * A design of about so many tables: the hospital again and again, a district each, all on one table of
 * species. The same for the same number.
 */
export function districts(count: number): Design {
  const species = makeTable(
    'species',
    [
      ['common_name', 'text(80)'],
      ['latin_name', 'text(80)']
    ],
    []
  )
  const tables: Table[] = [species]
  for (let district = 1; tables.length < count; district++) {
    const made = new Map([['species', species]])
    for (const [name, columns, refersTo] of HOSPITAL) {
      if (tables.length >= count) break
      const table = makeTable(
        `d${district}_${name}`,
        columns,
        refersTo.flatMap((parent) => made.get(parent) ?? []).map((parent) => ({ parent }))
      )
      made.set(name, table)
      tables.push(table)
    }
  }
  return { ...emptyDesign(`Fernhollow and its districts: ${count} tables`, `d_districts${count}`), tables }
}
