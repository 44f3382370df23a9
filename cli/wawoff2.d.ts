/** The package brings no types along. */
declare module 'wawoff2' {
  /** A font as TTF, from WOFF2. */
  export function decompress(font: Uint8Array): Promise<Uint8Array>
}
