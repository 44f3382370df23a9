import type { Design } from '../design/model.ts'
import { flawOfWritten, placesThatMeet } from '../design/place.ts'
import { shorten } from '../design/type.ts'
import { OutputFlaw } from './made-by.ts'
import { outputsOf } from './outputs.ts'

/** A file of an application's tree: where it stands there, and what is in it. */
export interface WantedFile {
  path: string
  text: string
}

/**
 * The files that an application is given of a design, as it says itself, in the order of their places.
 * @param fonts the rules that bring their fonts along to what is looked at.
 * @throws OutputFlaw where one cannot be written, or two would be written to the same place.
 * @param version which state of the design it is, in words.
 */
export function wantedFiles(design: Design, fonts: string, version?: string): WantedFile[] {
  const all = outputsOf(design)
  const options = version === undefined ? {} : { version }
  const wanted = Object.entries(design.outputs ?? {}).flatMap(([name, path]): WantedFile[] => {
    const output = all.find((each) => each.name === name)
    if (output?.files)
      return output.files(design, options).map((each) => ({ ...each, path: `${path}/${each.path}` }))
    return output ? [{ path, text: output.write(design, { fonts, ...options }) }] : []
  })
  for (const { path } of wanted) {
    const flaw = flawOfWritten(path)
    if (flaw !== undefined) throw new OutputFlaw(`Nothing is written to ${shorten(path)}: ${flaw}.`)
  }
  const meeting = placesThatMeet(wanted.map(({ path }) => path))
  if (meeting) {
    const [one, other] = meeting.map((path) => shorten(path))
    throw new OutputFlaw(
      one === other
        ? `Two outputs would be written to ${one}: give one another place.`
        : `Two outputs would be written to one place, ${one} and ${other}: give one another place.`
    )
  }
  return wanted.sort((one, other) => (one.path < other.path ? -1 : 1))
}

/** What a design wants and this program does not know: it was made with a later one. */
export function unknownOutputs(design: Design): string[] {
  const known = new Set(outputsOf(design).map(({ name }) => name))
  return Object.keys(design.outputs ?? {}).filter((name) => !known.has(name))
}
