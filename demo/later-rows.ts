import type { Value } from '../core/design/value.ts'

/**
 * Rows of the demo's third and fourth versions, in the order of the columns that later.ts names. All made
 * up.
 */
type Rows = readonly (readonly Value[])[]

export const WARDS: Rows = [
  ['ICU', 'Intensive care', 'cage'],
  ['SML', 'Small mammals', 'pen'],
  ['WTR', 'Water birds', 'pool'],
  ['AVI', 'Owls and others', 'aviary']
]

export const PENS: Rows = [
  ['ICU', 1, 1],
  ['ICU', 2, 1],
  ['ICU', 3, 1],
  ['SML', 1, 4],
  ['SML', 2, 4],
  ['WTR', 1, 12],
  ['WTR', 2, 6],
  ['AVI', 1, 2]
]

export const STAYS: Rows = [
  [1, '2026-04-29 18:30:00', 'ICU', 1, '2026-05-02 09:00:00'],
  [1, '2026-05-02 09:00:00', 'SML', 1, '2026-05-20 10:00:00'],
  [2, '2026-05-03 08:00:00', 'ICU', 2, '2026-05-05 08:30:00'],
  [2, '2026-05-05 08:30:00', 'SML', 1, '2026-06-01 17:00:00'],
  [3, '2026-05-04 11:45:00', 'ICU', 3, '2026-05-07 10:00:00'],
  [3, '2026-05-07 10:00:00', 'AVI', 1, '2026-06-12 20:30:00'],
  [4, '2026-05-05 22:30:00', 'ICU', 1, null],
  [5, '2026-05-09 10:20:00', 'WTR', 2, '2026-05-23 11:00:00'],
  [6, '2026-05-11 15:00:00', 'WTR', 1, '2026-06-02 09:00:00'],
  [7, '2026-05-11 15:00:00', 'WTR', 1, '2026-06-02 09:00:00'],
  [8, '2026-05-11 15:00:00', 'WTR', 1, '2026-05-12 04:00:00'],
  [9, '2026-05-16 08:40:00', 'SML', 2, null],
  [10, '2026-05-20 20:00:00', 'SML', 1, null],
  [11, '2026-05-20 20:00:00', 'SML', 1, null],
  [14, '2026-07-02 06:20:00', 'AVI', 1, null]
]

export const PERSONS: Rows = [
  [101, 'Maren Tollivar'],
  [102, 'Jonas Wickstead'],
  [103, 'Abena Faulkner-Ode'],
  [104, 'Ruth Penhallow']
]

export const CONFLICTS: Rows = [
  ['BADGER', 'HEDGEH', 'Badgers eat hedgehogs.'],
  ['GUILLM', 'MSWAN', 'Swans drive smaller birds off the water.'],
  ['HEDGEH', 'TAWNYO', 'Owls take young hedgehogs.']
]

export const CONDITIONS: Rows = [
  [1, 'fracture', false],
  [2, 'oiled plumage', false],
  [3, 'mange', true],
  [4, 'lungworm', true],
  [5, 'abscess', false]
]

export const DIAGNOSES: Rows = [
  [1, 1, 3, '2026-04-29', 101],
  [2, 5, 2, '2026-05-03', 101],
  [2, 4, 1, '2026-05-06', 102],
  [3, 1, 4, '2026-05-04', 101],
  [4, 1, 5, '2026-05-05', 103],
  [4, 5, 2, '2026-05-08', null],
  [6, 2, 3, '2026-05-11', 102],
  [7, 2, 3, '2026-05-11', 102],
  [8, 2, 5, '2026-05-11', 102],
  [10, 5, 2, '2026-05-20', 103],
  [11, 5, 2, '2026-05-20', 103],
  [15, 3, 3, '2026-07-15', 101]
]

/** Osric Pell is invited to everything and comes to nothing. */
export const VOLUNTEERS: Rows = [
  [1, 'Hester Quill', '01632 960 201'],
  [2, 'Dov Arkwright', null],
  [3, 'Lin Mossgrove', '01632 960 233'],
  [4, 'Osric Pell', '01632 960 240'],
  [5, 'Yusra Banning', null],
  [6, 'Tam Ferriday', '01632 960 258']
]

export const SKILLS: Rows = [
  [1, 'handling owls'],
  [2, 'washing oiled birds'],
  [3, 'bottle feeding'],
  [4, 'driving the van']
]

export const VOLUNTEER_SKILLS: Rows = [
  [1, 1, 'teaching', '2021-03-01'],
  [1, 3, 'trusted', '2022-06-15'],
  [2, 2, 'trusted', '2023-01-10'],
  [3, 2, 'learning', null],
  [3, 3, 'teaching', '2020-09-01'],
  [4, 2, 'trusted', '2019-05-05'],
  [4, 3, 'trusted', '2019-05-05'],
  [4, 1, 'learning', null],
  [5, 2, 'teaching', '2018-11-20'],
  [6, 4, 'trusted', '2024-02-02']
]

export const SHIFTS: Rows = [
  [1, 'WTR', 2, '2026-05-11 16:00:00', 'PT6H'],
  [2, 'WTR', 2, '2026-05-12 07:00:00', 'PT5H'],
  [3, 'SML', 3, '2026-05-17 06:00:00', 'PT4H'],
  [4, 'AVI', 1, '2026-05-08 19:00:00', 'PT2H'],
  [5, 'SML', null, '2026-05-21 18:00:00', 'PT1H30M']
]

export const SHIFT_VOLUNTEERS: Rows = [
  [1, 2, true],
  [1, 3, true],
  [1, 4, false],
  [1, 5, true],
  [2, 2, false],
  [2, 3, true],
  [2, 4, false],
  [2, 5, true],
  [3, 1, true],
  [3, 3, true],
  [3, 4, false],
  [4, 1, true],
  [4, 4, false],
  [5, 6, null]
]

export const SITES: Rows = [
  [1, 'Oxlea meadow', 'LH412207', 'rough grass by a hedge'],
  [2, 'Old mill', 'LH397188', 'woodland'],
  [3, 'Saltings beach', 'LH455301', 'shore']
]

export const RELEASES: Rows = [
  [1, 1, '2026-05-20'],
  [2, 1, '2026-06-01'],
  [3, 2, '2026-06-12'],
  [5, 1, '2026-05-23'],
  [6, 3, '2026-06-02'],
  [7, 3, '2026-06-02']
]

export const CARER_NOTES: Rows = [
  [
    1,
    2,
    null,
    101,
    '2026-05-03 09:00:00',
    'Net cut away from the left hind leg; swollen, not broken.',
    false
  ],
  [2, 2, 1, 102, '2026-05-04 08:15:00', 'Swelling is down. Eats.', false],
  [3, 4, null, 103, '2026-05-06 06:10:00', 'Bites at everything. Two people for every dressing.', false],
  [4, 4, 3, 104, '2026-05-06 12:00:00', 'Bitten: seen by a doctor, nothing serious.', true],
  [
    5,
    6,
    null,
    102,
    '2026-05-12 10:30:00',
    'Second wash. Waterproof on the breast, not under the wings.',
    false
  ],
  [6, 14, null, null, '2026-07-02 07:00:00', 'The same owl as in May, the same bend of the road.', false]
]
