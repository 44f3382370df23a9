/** Why something cannot be written, in words for a person. */
export class OutputFlaw extends Error {}

/** A file of an output that comes as several, by its place in the folder of all. */
export interface CodeFile {
  path: string
  text: string
}

/** A design by its name, and which state of it, where that is said. */
export interface StateName {
  design: string
  version?: string | undefined
}

/** A design's name, and which state of it, where that is said. */
export const stateOf = ({ design, version }: StateName): string =>
  version === undefined ? design : `${design}, ${version}`

/** What every file for an application begins with: that it is made, and from what. The same design says the same. */
export const madeBy = (made: StateName): string[] => [
  `Made by Patient Key from the design ${oneLine(stateOf(made))}.`,
  'Change the design and write it anew: what is changed here is lost then.'
]

/** A text as one line that cannot end a comment. */
export const oneLine = (text: string): string =>
  text
    .replaceAll(/[\p{Cc}\u2028\u2029]+/gu, ' ')
    .replaceAll('*/', '* /')
    .trim()
