import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import { FACES, fontRules } from '../core/diagram/fonts.ts'

const { resolve } = createRequire(import.meta.url)

/** The rules that bring the fonts into a picture. */
export const fonts = (): string =>
  fontRules(
    FACES.map(({ file }) => `data:font/woff2;base64,${readFileSync(resolve(file)).toString('base64')}`)
  )
