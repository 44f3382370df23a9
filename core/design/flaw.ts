import { flawOfText } from './value.ts'

/** Something that does not hold together in a design, and the path to it in the design file. */
export interface Flaw {
  path: (string | number)[]
  message: string
}

export function flawsOfNote(note: string | undefined, of: string, path: Flaw['path']): Flaw[] {
  const unfit = note === undefined ? undefined : flawOfText(note)
  return unfit === undefined
    ? []
    : [{ path: [...path, 'note'], message: `the note of ${of} has ${unfit} in it, which no engine holds` }]
}

/** What cannot stand in a text of one line. */
export function flawOfLine(text: string): string | undefined {
  // eslint-disable-next-line no-control-regex
  return flawOfText(text) ?? (/[\u0000-\u001f\u007f]/.test(text) ? 'a control character' : undefined)
}
