/** Work on a table's rows that has a card of its own. */
export type Work =
  | { kind: 'columns' | 'orphans' | 'connect' | 'import' | 'generate' }
  /** What can be asked, by a relationship where one is meant. */
  | { kind: 'ask'; over?: string | undefined }
  /** A figure that is there, or a new one, over a reference where one is meant. */
  | { kind: 'figure'; id?: string | undefined; over?: string | undefined }
  /** The missing pairs of a junction, of one row where one is meant. */
  | { kind: 'pairs'; junction: string; place?: number | undefined }
