/**
 * How long, how deep and how many: the most that is taken of each thing that comes from outside, so that
 * no text, file or request keeps the program busy for long. docs/safety.md lists them, and a test holds
 * the page to these numbers. All lengths are in UTF-16 units unless something else is said.
 */
export const BOUNDS = {
  /** A design file, as it is read from a disk or a page. */
  file: 64 * 2 ** 20,
  /** A file with many designs in it, in bytes, and how many; one of the first format is read whole. */
  backup: 2 ** 30,
  firstBackup: 256 * 2 ** 20,
  designs: 10_000,
  /** How deep JSON is nested. What a design needs is under twenty. */
  jsonDepth: 64,
  /** What one request to the server says, in bytes; a design file or a backup may be longer. */
  request: 16 * 2 ** 20,

  tables: 10_000,
  /**
   * Columns of a table, and columns of a key or an index: SQLite's own limit, the largest that any engine
   * has.
   */
  columns: 2000,
  /** Keys, references, checks, indexes or row policies of a table. */
  rules: 1000,
  rows: 200_000,
  schemas: 1000,
  lists: 2000,
  valuesInList: 500,
  carries: 20_000,
  /** Named parts of a design, and saved views of it. */
  subjects: 500,
  views: 500,
  versions: 10_000,
  /** The name of a file with the folders that it stands in. */
  place: 200,
  /** Templates of a team's own, and the text of one. */
  templates: 50,
  template: 100_000,

  note: 2000,
  /** A text in a row or a default. */
  value: 1_000_000,
  /** An expression as it is typed; as it is kept, with ids for names, it may be twice as long. */
  typedExpression: 2000,
  keptExpression: 4000,
  /** Parentheses and the like within each other. */
  expressionDepth: 60,
  /** How many parts an engine makes of an expression at the most. */
  expressionParts: 20_000,

  /** Operations of one step, those of a step within it counted as well. */
  operations: 10_000,
  operationsInBatch: 2000
} as const
