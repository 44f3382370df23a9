import next from '@fontsource/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-400-normal.woff?url'
import bold from '@fontsource/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-700-normal.woff?url'
import mono from '@fontsource/atkinson-hyperlegible-mono/files/atkinson-hyperlegible-mono-latin-400-normal.woff?url'
import italic from '@fontsource/atkinson-hyperlegible-mono/files/atkinson-hyperlegible-mono-latin-400-italic.woff?url'
import type { Paint } from '../../core/diagram/paint.ts'
import { sceneToPdf, type FontFiles, type Pages } from '../../core/diagram/pdf.ts'
import type { Scene } from '../../core/diagram/scene.ts'
import type { SheetWords } from '../../core/diagram/sheet.ts'

/** Writes a scene as PDF; the answer is the document, or why there is none. */
export interface PdfQuestion {
  scene: Scene
  words: SheetWords
  how: Paint
  pages: Pages
}
export type PdfAnswer = { document: Uint8Array } | { failure: string }

const fontsAt = (addresses: readonly string[]): Promise<Uint8Array[]> =>
  Promise.all(addresses.map(async (address) => new Uint8Array(await (await fetch(address)).arrayBuffer())))

self.onmessage = async ({ data: { scene, words, how, pages } }: MessageEvent<PdfQuestion>) => {
  const answer = (said: PdfAnswer): void => self.postMessage(said)
  try {
    const fonts = (await fontsAt([next, bold, mono, italic])) as unknown as FontFiles
    answer({ document: await sceneToPdf(scene, words, fonts, how, pages) })
  } catch (error) {
    answer({ failure: error instanceof Error ? error.message : String(error) })
  }
}
