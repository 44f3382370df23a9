/**
 * A random uuid (RFC 9562, 5.4). The browser's own maker of them is there on pages of this machine and behind TLS
 * only; this one is there on every page.
 */
export function randomId(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16))
  bytes[6] = ((bytes[6] as number) & 0x0f) | 0x40
  bytes[8] = ((bytes[8] as number) & 0x3f) | 0x80
  const digits = [...bytes].map((byte) => byte.toString(16).padStart(2, '0')).join('')
  return [
    [0, 8],
    [8, 12],
    [12, 16],
    [16, 20],
    [20, 32]
  ]
    .map((part) => digits.slice(...part))
    .join('-')
}
