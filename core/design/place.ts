import { placeFlaw } from './model.ts'

/** What the program notes down in a tree of what it wrote there. */
export const WRITTEN_LIST = 'patient-key.written.json'

/** Names that are devices to Windows, whatever stands behind a dot (Microsoft, “Naming Files, Paths, and Namespaces”). */
const DEVICES = /^(con|prn|aux|nul|com[0-9¹²³]|lpt[0-9¹²³])(\.|$)/i

/** Characters that no screen shows, or that turn the direction of a text, so that a name reads as another. */
const UNSEEN = /[\p{Cf}\p{Zl}\p{Zp}\p{Co}\p{Cs}]/u

/**
 * Why nothing is written to a place in a tree; nothing where it can be. A design may come from anywhere, so a place
 * may not be one that other programs act on: those begin with a dot (`.git/config`, `.ssh/rc`, `.npmrc`).
 */
export function flawOfWritten(place: string): string | undefined {
  const flaw = placeFlaw(place)
  if (flaw !== undefined) return flaw
  const parts = place.split('/')
  if (parts.some((part) => part.startsWith('.')))
    return 'no name may begin with a dot: other programs act on those'
  const device = parts.find((part) => DEVICES.test(part))
  if (device !== undefined) return `${device} is the name of a device on some machines`
  if (UNSEEN.test(place)) return 'it has a character in it that is not seen'
  return oneName(place) === oneName(WRITTEN_LIST) ? 'the program notes there what it has written' : undefined
}

/** A place as machines have it that do not tell large letters from small ones, or one way of writing é from another. */
export const oneName = (place: string): string => place.normalize('NFKC').toLowerCase().toUpperCase()

/** Two of the places that cannot both be written: they are one somewhere, or one is a folder of the other. */
export function placesThatMeet(places: readonly string[]): [string, string] | undefined {
  const known = new Map<string, string>()
  const folders = new Map<string, string>()
  for (const place of places) {
    const parts = oneName(place).split('/')
    const whole = parts.join('/')
    const other = known.get(whole) ?? folders.get(whole)
    if (other !== undefined) return [other, place]
    for (let count = 1; count < parts.length; count++) {
      const folder = parts.slice(0, count).join('/')
      const file = known.get(folder)
      if (file !== undefined) return [file, place]
      folders.set(folder, place)
    }
    known.set(whole, place)
  }
  return undefined
}
