import type { Design } from '../design/model.ts'
import { outputsOf } from './outputs.ts'

/** A file of an application's tree: where it stands there, and what is in it. */
export interface WantedFile {
  path: string
  text: string
}

/**
 * The files that an application is given of a design, as it says itself, in the order of their places.
 * @param fonts the rules that bring their fonts along to what is looked at.
 */
export function wantedFiles(design: Design, fonts: string): WantedFile[] {
  const all = outputsOf(design)
  const wanted = Object.entries(design.outputs ?? {}).flatMap(([name, path]): WantedFile[] => {
    const output = all.find((each) => each.name === name)
    if (output?.files) return output.files(design).map((each) => ({ ...each, path: `${path}/${each.path}` }))
    return output ? [{ path, text: output.write(design, { fonts }) }] : []
  })
  return wanted.sort((one, other) => (one.path < other.path ? -1 : 1))
}

/** What a design wants and this program does not know: it was made with a later one. */
export function unknownOutputs(design: Design): string[] {
  const known = new Set(outputsOf(design).map(({ name }) => name))
  return Object.keys(design.outputs ?? {}).filter((name) => !known.has(name))
}
