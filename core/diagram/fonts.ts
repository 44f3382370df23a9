/** The faces in which a diagram and what stands beside it are written: words, names, columns, and columns that may be empty. */
export const FACES = [
  {
    family: 'Atkinson Hyperlegible Next',
    weight: 400,
    style: 'normal',
    file: '@fontsource/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-400-normal.woff2'
  },
  {
    family: 'Atkinson Hyperlegible Next',
    weight: 700,
    style: 'normal',
    file: '@fontsource/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-700-normal.woff2'
  },
  {
    family: 'Atkinson Hyperlegible Mono',
    weight: 400,
    style: 'normal',
    file: '@fontsource/atkinson-hyperlegible-mono/files/atkinson-hyperlegible-mono-latin-400-normal.woff2'
  },
  {
    family: 'Atkinson Hyperlegible Mono',
    weight: 400,
    style: 'italic',
    file: '@fontsource/atkinson-hyperlegible-mono/files/atkinson-hyperlegible-mono-latin-400-italic.woff2'
  }
] as const

/**
 * The rules that bring the faces into a picture, so that it looks the same everywhere.
 * @param sources each face as a data address, in the order of FACES.
 */
export const fontRules = (sources: readonly string[]): string =>
  FACES.map(
    ({ family, weight, style }, at) =>
      `@font-face{font-family:'${family}';font-weight:${weight};font-style:${style};src:url(${sources[at]}) format('woff2')}`
  ).join('\n')
