/** How far the two ways of a migration have come, by the account. */
export interface WayProgress {
  account: string
  own: Distance
  other: Distance
}

export interface Distance {
  /** How many of its statements are done, as an expression. */
  done: string
  /** With so many it is where it leads to: what comes after only clears away what was kept. */
  enough: number
  all: number
}
