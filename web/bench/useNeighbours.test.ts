import { describe, expect, it } from 'vitest'
import { computed, shallowRef } from 'vue'
import { fernhollow } from '../../demo/fernhollow.ts'
import { tableOf } from '../../core/design/directory.ts'
import type { Design } from '../../core/design/model.ts'
import { apply } from '../../core/edit/apply.ts'
import { proposeRelationship } from '../../core/relate/propose.ts'
import { useNeighbours, type Neighbour } from './useNeighbours.ts'

const design = shallowRef<Design | undefined>(fernhollow().versions[1]?.design)
const middle = shallowRef('t_admission')
const { ones, manys } = useNeighbours(
  computed(() => design.value),
  computed(() => design.value && tableOf(design.value, middle.value))
)
const say = (neighbours: readonly Neighbour[]): string[] =>
  neighbours.map(
    ({ table, child, parent, far }) =>
      `${table.name}: ${child.name} of ${parent.name}${far.length > 0 ? `, beyond it ${far.map((each) => each.name).join()}` : ''}`
  )

describe('the neighbours of a table', () => {
  it('are what it refers to, what refers to it, and beyond a junction its far side', () => {
    expect(say(ones.value)).toEqual([
      'patient: admission of patient',
      'finder: admission of finder',
      'reason: admission of reason'
    ])
    expect(say(manys.value)).toEqual(['dose: dose of admission, beyond it medicine'])
    middle.value = 't_dose'
    expect([say(ones.value), say(manys.value)]).toEqual([
      ['admission: dose of admission', 'medicine: dose of medicine'],
      []
    ])
  })

  it('follow the design', () => {
    middle.value = 't_species'
    expect(say(manys.value)).toEqual(['patient: patient of species'])
    const result =
      design.value &&
      apply(design.value, {
        kind: 'foreignKey.remove',
        table: 't_patient',
        foreignKey: 'f_patient_species_code'
      })
    if (result?.ok) design.value = result.design
    expect(manys.value).toEqual([])
  })

  it('of a table that refers to itself are on both sides', () => {
    middle.value = 't_finder'
    const operation =
      design.value &&
      proposeRelationship(design.value, {
        parent: 't_finder',
        child: 't_finder',
        required: false,
        single: false
      })
    const result = design.value && operation && apply(design.value, operation)
    if (result?.ok) design.value = result.design
    expect(say(ones.value)).toEqual(['finder: finder of finder'])
    expect(say(manys.value)).toEqual(
      ['admission: admission of finder', 'finder: finder of finder'].sort((a) =>
        a.startsWith('finder') ? -1 : 1
      )
    )
  })

  it('are none where there is no table', () => {
    middle.value = 't_nowhere'
    expect([ones.value, manys.value]).toEqual([[], []])
  })
})
