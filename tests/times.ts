const SOAK = Math.max(1, Number(process.env.SOAK ?? 1))

/** How often a random test is run: as often as said, and in a soak (SOAK=10) so many times as often. */
export const times = (often: number): number => Math.ceil(often * SOAK)
