import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Resvg } from '@resvg/resvg-js'
import { decompress } from 'wawoff2'
import { FACES, fontRules } from '../core/diagram/fonts.ts'
import type { FontFiles } from '../core/diagram/pdf.ts'

const { resolve } = createRequire(import.meta.url)

/** The rules that bring the fonts into a picture. */
export const fonts = (): string =>
  fontRules(
    FACES.map(({ file }) => `data:font/woff2;base64,${readFileSync(resolve(file)).toString('base64')}`)
  )

/** The fonts as files that can be put into a PDF. */
export const fontFiles = (): FontFiles =>
  FACES.map(({ file }) => readFileSync(resolve(file.replace(/woff2$/, 'woff')))) as unknown as FontFiles

/** What some faces' files call their family themselves, which is what it is found by where no rule names it. */
const OWN_NAMES: Record<string, string> = {
  'Atkinson Hyperlegible Mono': 'Atkinson Hyperlegible Mono ExtraLight'
}
const byOwnNames = (svg: string): string =>
  svg.replaceAll(
    /font-family="'([^']*)'/g,
    (_, family: string) => `font-family="'${OWN_NAMES[family] ?? family}'`
  )

/** How many pixels a picture may have at most on a side. */
const LONGEST = 32_000

/**
 * An SVG document as PNG, in the product's fonts and, for letters that these lack, those of the machine.
 * @param scale pixels for each of the drawing's own; fewer where it would be too large.
 */
export async function svgToPng(svg: string, scale: number): Promise<Uint8Array> {
  const directory = mkdtempSync(join(tmpdir(), 'patient-key-fonts-'))
  try {
    const files: string[] = []
    // One after the other: the package gives each font out in the same piece of memory.
    for (const { file } of FACES) {
      const path = join(directory, `${files.length}.ttf`)
      writeFileSync(path, await decompress(readFileSync(resolve(file))))
      files.push(path)
    }
    const font = { fontFiles: files, loadSystemFonts: true }
    const named = byOwnNames(svg)
    const { width, height } = new Resvg(named, { font: { loadSystemFonts: false } })
    const value = Math.min(scale, LONGEST / width, LONGEST / height)
    return new Resvg(named, { fitTo: { mode: 'zoom', value }, font }).render().asPng()
  } finally {
    rmSync(directory, { recursive: true })
  }
}
