import { computed, shallowRef, type Ref } from 'vue'
import type { Paint } from '../../core/diagram/paint.ts'
import type { Pages } from '../../core/diagram/pdf.ts'
import type { Scene } from '../../core/diagram/scene.ts'
import type { SheetWords } from '../../core/diagram/sheet.ts'
import { sceneToSvg } from '../../core/diagram/svg.ts'
import { download } from '../parts/files.ts'
import { FONTS, toPng } from '../parts/picture.ts'
import { useDesign } from '../stores/design.ts'
import type { PdfAnswer, PdfQuestion } from '../workers/pdf.worker.ts'

/** What a diagram can be saved as. */
export type Saved = 'svg' | 'png' | 'pdf' | 'a4' | 'a3'

/** Pixels for each of the drawing's own, in a picture that is to be printed or shown. */
const SHARP = 2

/** Saves what is drawn as a file, with its title over it and a legend under it. */
export function useSaving(
  scene: Ref<Scene | undefined>,
  words: Ref<SheetWords>,
  how: Ref<Paint>
): { save: (as: Saved) => Promise<void>; isEmpty: Ref<boolean>; isSaving: Ref<boolean> } {
  const store = useDesign()
  /** Whether there is nothing to be saved. */
  const isEmpty = computed(() => (scene.value?.tables.length ?? 0) === 0)
  const isSaving = shallowRef(false)

  async function save(as: Saved): Promise<void> {
    if (!scene.value || isSaving.value) return
    const { title } = words.value
    isSaving.value = true
    try {
      if (as === 'svg') download(`${title}.svg`, svg(scene.value), 'image/svg+xml')
      else if (as === 'png') download(`${title}.png`, await toPng(svg(scene.value), SHARP), 'image/png')
      else download(`${title}.pdf`, await pdf(scene.value, as === 'pdf' ? 'one' : as), 'application/pdf')
    } catch {
      store.say('The picture could not be made: it may be too large. Save it as SVG, or draw less of it.')
    } finally {
      isSaving.value = false
    }
  }

  const svg = (drawn: Scene): string => sceneToSvg(drawn, words.value, how.value, FONTS)

  /** Written off the main thread. */
  async function pdf(drawn: Scene, pages: Pages): Promise<Blob> {
    const worker = new Worker(new URL('../workers/pdf.worker.ts', import.meta.url), { type: 'module' })
    try {
      const answer = await new Promise<PdfAnswer>((resolve, reject) => {
        worker.onmessage = ({ data }: MessageEvent<PdfAnswer>) => resolve(data)
        worker.onerror = () => reject(new Error('It could not be written.'))
        const question: PdfQuestion = { scene: drawn, words: words.value, how: how.value, pages }
        worker.postMessage(question)
      })
      if ('failure' in answer) throw new Error(answer.failure)
      return new Blob([answer.document as Uint8Array<ArrayBuffer>], { type: 'application/pdf' })
    } finally {
      worker.terminate()
    }
  }

  return { save, isEmpty, isSaving }
}
