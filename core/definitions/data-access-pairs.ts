import { type Entity } from './shape.ts'
import { quoted } from './typescript.ts'

/** Functions that attach, detach and set what a junction relates. */

type List = readonly string[]

export const listed = (texts: List): string => `[${texts.map(quoted).join(', ')}]`

/** The pairs that a row has by way of a junction. */
export interface JunctionPairs {
  name: string
  junction: Entity
  asked: { row: string; values: string }
  /** The junction's fields that lead here, and what they hold of the row. */
  nears: [its: string, own: string][]
  near: List
  /** The junction's other fields that lead to the far side, and those that tell its pairs apart. */
  far: List
  by: List
  /** That pairs, which go by `its`, belong to the row. */
  where: string
}

const union = (fields: List): string => [...new Set(fields)].map(quoted).join(' | ')

/** A pair with what is known from this side. */
const whole = ({ nears }: JunctionPairs): string =>
  `{ ...pair, ${nears.map(([its, own]) => `${its}: row.${own}`).join(', ')} }`

const newPair = ({ junction, near }: JunctionPairs): string => `Omit<New${junction.type}, ${union(near)}>`

const farPair = ({ junction, far }: JunctionPairs): string =>
  far.map((field) => `${field}: NonNullable<${junction.type}[${quoted(field)}]>`).join('; ')

/** Whether a pair is there. */
export const hasLines = (pair: JunctionPairs): string[] => [
  `${pair.name}: async (${pair.asked.row}, pair: { ${farPair(pair)} }) =>`,
  `  (await rows.countBy(TABLES.${pair.junction.one}, ${whole(pair)}, ${listed([...pair.near, ...pair.far])})) > 0,`
]

/** Puts a pair in. */
export function attachLines(pair: JunctionPairs): string[] {
  const { name, junction, asked } = pair
  const made = `rows.attach<${junction.type}>(TABLES.${junction.one}, ${whole(pair)})`
  const gives = junction.key.length > 0 ? `(await ${made}) as ${junction.type}` : `void (await ${made})`
  return [`${name}: async (${asked.row}, pair: ${newPair(pair)}) =>`, `  ${gives},`]
}

/** Takes a pair away, however often it is there. */
export const detachLines = (pair: JunctionPairs): string[] => [
  `${pair.name}: (${pair.asked.row}, pair: { ${farPair(pair)} }) =>`,
  `  rows.removeBy(TABLES.${pair.junction.one}, ${whole(pair)}, ${listed([...pair.near, ...pair.far])}),`
]

/** Has a row have just these. */
export function setLines(pair: JunctionPairs): string[] {
  const { name, junction, asked, near, by, where } = pair
  const of = `TABLES.${junction.one}`
  return [
    `${name}: async (${asked.row}, pairs: readonly ${newPair(pair)}[]) => {`,
    `  const there = await rows.many<${junction.type}>(${of}, ${quoted(where)}, ${asked.values})`,
    `  return rows.set(${of}, there, pairs.map((pair) => (${whole(pair)})), ${listed(near)}, ${listed(by)})`,
    '},'
  ]
}
