/** Times in milliseconds. */
export interface Spread {
  median: number
  p95: number
}

/**
 * Runs the work so many times after a few to warm up, and gives the median and the 95th percentile of one
 * run.
 */
export async function measure(runs: number, work: (run: number) => unknown): Promise<Spread> {
  const times: number[] = []
  for (let run = 0; run < runs + Math.ceil(runs / 5); run++) {
    const start = performance.now()
    await work(run)
    times.push(performance.now() - start)
  }
  return spread(times.slice(-runs))
}

/** The median and the 95th percentile of some times. */
export function spread(times: readonly number[]): Spread {
  const sorted = [...times].sort((a, b) => a - b)
  const at = (share: number): number =>
    sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))] ?? NaN
  return { median: at(0.5), p95: at(0.95) }
}
