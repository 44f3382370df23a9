import next from '@fontsource/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-400-normal.woff2?inline'
import bold from '@fontsource/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-700-normal.woff2?inline'
import mono from '@fontsource/atkinson-hyperlegible-mono/files/atkinson-hyperlegible-mono-latin-400-normal.woff2?inline'
import italic from '@fontsource/atkinson-hyperlegible-mono/files/atkinson-hyperlegible-mono-latin-400-italic.woff2?inline'
import { fontRules } from '../../core/diagram/fonts.ts'

/** The rules that bring the fonts into a picture, in the order in which the diagram names them. */
export const FONTS = fontRules([next, bold, mono, italic])

/** How many pixels a picture may have at most on a side, and in all, for browsers to make it. */
const MOST = { side: 16_000, all: 120_000_000 }

/**
 * An SVG document as PNG.
 * @param scale pixels for each unit of the drawing; fewer where it would be too large.
 * @throws where the browser cannot make it.
 */
export async function toPng(svg: string, scale: number): Promise<Blob> {
  const image = new Image()
  image.src = `data:image/svg+xml;utf8,${encodeURIComponent(svg)}`
  await image.decode()
  const { width, height } = image
  const most = Math.min(MOST.side / width, MOST.side / height, Math.sqrt(MOST.all / (width * height)))
  const used = Math.min(scale, most)
  const canvas = document.createElement('canvas')
  canvas.width = Math.max(1, Math.floor(width * used))
  canvas.height = Math.max(1, Math.floor(height * used))
  canvas.getContext('2d')?.drawImage(image, 0, 0, canvas.width, canvas.height)
  const blob = await new Promise<Blob | null>((resolve) => canvas.toBlob(resolve, 'image/png'))
  if (!blob) throw new Error('The browser could not make a picture of this size.')
  return blob
}
