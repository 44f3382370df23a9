/**
 * The hospital's old intake log: one flat sheet, in which what is known of a finder and of a species stands on every
 * line again, now and then otherwise than before, and some lines are not as they should be. Semicolons between fields,
 * in the characters of western Windows, as the desk's spreadsheet saved it.
 */
const LINES = 400

const SPECIES = [
  ['Hedgehog', 'Erinaceus europaeus'],
  ['Badger', 'Meles meles'],
  ['Tawny owl', 'Strix aluco'],
  ['Mute swan', 'Cygnus olor'],
  ['Otter', 'Lutra lutra'],
  ['Guillemot', 'Uria aalge'],
  ['Roe deer', 'Capreolus capreolus']
] as const
const FINDERS = [
  ['Ines Toller', '01632 960 114', 'FH1 4QT'],
  ['Bram Okeby', '01632 960 127', 'FH2 8RD'],
  ['Odile Farrant', '01632 960 139', 'FH1 2LN'],
  ['Cass Wetherlow', '01632 960 142', 'FH7 7AB'],
  ['Teodor Minks', '01632 960 155', 'FH3 5PE'],
  ['Béatrice Quillon', '01632 960 163', 'FH4 1CW'],
  ['Philippa Oduya-Marsh', '01632 960 178', 'FH2 6GG']
] as const
const PLACES = [
  'Mill Lane',
  'the harbour wall',
  'Fernhollow Wood',
  'a garden in Quay Street',
  'the ring road'
] as const
const REASONS = ['struck by a vehicle', 'orphaned', 'oiled', 'netting', 'cat'] as const

const HEAD = 'Intake no;Taken in;Species;Latin name;Finder;Telephone;Postcode;Found at;Weight g;Reason'

/** What is wrong on which line of the sheet, counted from 1 for the first line below the head. */
const MISTAKES: Record<number, (fields: string[]) => string[]> = {
  37: (fields) => [...fields.slice(0, 9)],
  58: (fields) => fields.with(1, '31.02.2024'),
  91: (fields) => fields.with(8, 'light'),
  120: (fields) => fields.with(0, '119'),
  166: (fields) => [...fields, 'see overleaf'],
  203: (fields) => fields.with(0, ''),
  274: (fields) => fields.with(1, 'yesterday'),
  331: (fields) => fields.with(8, '2,5 kg')
}
/** Where the sheet contradicts what it said before: another spelling, another number. */
const CONTRADICTS: Record<number, (fields: string[]) => string[]> = {
  44: (fields) => fields.with(3, 'Erinaceus europeus'),
  133: (fields) => fields.with(5, '01632 960 999'),
  251: (fields) => fields.with(6, 'FH9 9ZZ')
}

/** How many lines are not as they should be. */
export const MISTAKEN = Object.keys(MISTAKES).length
export { LINES as INTAKES }

/** The sheet, as text; its file is in Windows-1252. */
export function intakeSheet(): string {
  const lines = Array.from({ length: LINES }, (_, at) => {
    const number = at + 1
    const plain = fieldsOf(number)
    const said = CONTRADICTS[number]?.(plain) ?? plain
    return (MISTAKES[number]?.(said) ?? said).join(';')
  })
  return `${[HEAD, ...lines].join('\r\n')}\r\n`
}

function fieldsOf(number: number): string[] {
  const pick = <T>(list: readonly T[], by: number): T =>
    list[(number * by + (number >> 3)) % list.length] as T
  const [species, latin] = pick(SPECIES, 5)
  const [finder, telephone, postcode] = pick(FINDERS, 3)
  const day = new Date(Date.UTC(2024, 0, 1 + Math.floor(number * 1.7)))
  return [
    String(number),
    day.toISOString().slice(0, 10),
    species,
    latin,
    finder,
    telephone,
    postcode,
    pick(PLACES, 2),
    String(180 + ((number * 137) % 2400)),
    pick(REASONS, 4)
  ]
}
