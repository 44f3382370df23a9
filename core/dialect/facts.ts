import type { Action } from '../design/model.ts'
import type { NamedValues, Type } from '../design/type.ts'
import type { Value } from '../design/value.ts'

/** What has a name: `rule` is a key, a reference, a check or an index. */
export type KindOfName = 'table' | 'column' | 'schema' | 'list' | 'rule'

/** The versions of an engine that a design can be meant for, the oldest first; later ones take the same. */
export interface Versions {
  all: readonly string[]
  /** The one that is meant where a design does not say. */
  usual: string
}

/**
 * What an engine can do and where its limits are, as data. Checks, readings, writers and plans ask it;
 * the source of each is the engine's own manual, and what an engine that runs here says is held by tests.
 */
export interface Facts {
  title: string
  versions: Versions
  /** The oldest version that what is written is to run on; what is said here holds for it and for all later ones. */
  oldest: string
  /** What came after the first version that is cared for, by the function of a design and by the kind of type. */
  came?: { functions?: Record<string, Came>; types?: Partial<Record<Type['kind'], Came>> }
  /** The longest name, or none. */
  nameLimit: { most: number; of: 'bytes' | 'characters' } | undefined
  /** Characters that no name can have, quoted or not. */
  refusedInNames?: RegExp
  /**
   * Names that the engine keeps for itself, quoted or not, by what they would be names of. A list of
   * values may be called as no type is.
   */
  kept?: Partial<Record<KindOfName, RegExp>>
  /** What becomes of a name without quotes. */
  folds: 'lower' | 'upper' | 'not'
  /** Words that cannot be names without quotes, in lower case. */
  reserved: ReadonlySet<string>
  schemas: boolean
  /** The schema in which a table stands that names none; it is there already. */
  ownSchema?: string
  rowPolicies: boolean
  /** The functions of a design that the engine has no words for, each with the reason. */
  lacksFunctions?: Record<string, string>
  partialIndexes: boolean
  /** Whether what is unique in some of the rows can be held by a computed column. */
  holdsByColumn: boolean
  /** Whether triggers can hold a check that it does not take. */
  holdsByTrigger: boolean
  /**
   * What two empty values are in a unique key: apart from each other, the same, or the same where something else
   * of the key is filled.
   */
  emptyInKey: 'apart' | 'same' | 'same beside others'
  /** Texts that are not kept, or not told apart, as a design has them. */
  texts?: {
    /** An empty text is no value. */
    emptyIsNothing?: true
    /** In a key, blanks at the end of a text make no difference. */
    blanksAlike?: true
    /** The most bytes of a value of a list. */
    listValueBytes?: number
    /** No letters but these are made small or large. */
    onlyAToZ?: true
  }
  /** For a type of which some values are refused: why one is, or nothing. */
  refusesValue?: Partial<Record<Type['kind'], (value: Value) => string | undefined>>
  /** What triggers see to when a row is written; see ./trigger.ts. */
  triggers: {
    /** Why there are none, where there are none. */
    lacks?: string
    /** Whether they can fill what is required before it is asked for. */
    fillsRequired: boolean
    /** Whether one may read the table that it is on. */
    readsOwn: boolean
    /** Whether they know a row by nothing but its key. */
    needKey: boolean
  }
  comments: boolean
  /** Which columns it counts by itself, in words: one a table, say. */
  counts: string
  computed: ComputedFacts
  references: ReferenceFacts
  /** Whether expressions whose parts are of types that do not go together are refused when they are made. */
  judgesTypes: boolean
  deferrable: boolean
  /** Whether triggers can wait for the end of a transaction. */
  deferredTriggers: boolean
  /** The longest key or index. `refuses`: when it is made, or when a row is too long for it. */
  key:
    | {
        bytes: number
        columns: number
        refuses: 'made' | 'row'
        /**
         * A unique key may be longer, held by a hash, and so may an index on one column, which then knows
         * its beginning.
         */
        longUnique?: true
        /** The most bytes of a primary key, where that is less. */
        primaryBytes?: number
        /** What types, as they are written, stand in no key, and which in none that is unique. */
        refusesTypes?: { any: RegExp; unique?: RegExp }
        /** How many bytes a character has at the most. */
        perCharacter: number
      }
    | undefined
  /** The most columns of a table. */
  mostColumns: number
  /** What types, as they are written, cannot be compared, in a check or anywhere. */
  neverCompared?: RegExp
  /** Whether two indexes may be on the same columns. */
  sameIndexTwice: boolean
  /** Whether a table may refer twice by the same columns to the same of another. */
  sameReferenceTwice: boolean
  /** The actions it does not have, each with the reason. */
  lacks: { action: Action; on: ('delete' | 'update')[]; why: string }[]
  /** What is refused where SET NULL would empty a column that is required: the table, or the row that does it. */
  emptyingRequired: 'table' | 'row'
  /** How it carries out what references say. */
  actions: ActionFacts
  /** Whether a referential action may reach a table by two ways, or come round in a circle. */
  manyCascadePaths: boolean
  /** Whether the engine changes a table inside a transaction that can be rolled back. */
  rollsBack: boolean
  /** Whether a version of it runs here, so that what is written can be proven. */
  runs: boolean
}

/**
 * How an engine carries out what references say, which core/rehearse works out; what an engine that runs here does is
 * held by random statements on it.
 */
export interface ActionFacts {
  /**
   * When an action runs: once the statement has changed all its rows, in the order in which they were changed, and
   * what an action changes in turn behind those; or with each row, to the last consequence, before the next row.
   */
  runs: 'behind the statement' | 'with each row'
  /**
   * When it looks whether a reference leads somewhere, and what NO ACTION lets pass: with the row, when even a row that
   * refers to itself is in its own way, as with RESTRICT; in its turn; or at the statement's end.
   */
  looks: 'with the row' | 'in turn' | 'at the end'
  /** Which of the references to a table has the first turn. */
  turns: 'first made' | 'last made' | 'by key and name'
  /** In which order rows are come to: in that of their keys, or as they were put in. */
  rows: 'by key' | 'as put in'
  /** Whether checks hold for rows that an action changes. */
  checksActions: boolean
  /** Whether an action may change rows of a table that a change of a key has come through. */
  changesAgain: boolean
  /** The most steps from a row that is deleted to what is deleted with it. */
  deepest?: number
  /** Whether a connection holds rows to references only where it says so first. */
  heldOnRequest?: true
  /** What a transaction that defers defers: what is deferrable; or every reference, RESTRICT too. */
  defers: 'deferrable' | 'all'
}

/** Something that an engine has from a version on. */
export interface Came {
  in: string
  what: string
  /** What happens before it. */
  becomes: string
  weight: 'refused' | 'doubtful'
}

/** What may stand where a column is computed, and where a computed column may stand. */
export interface ComputedFacts {
  /** Whether it may be computed from another that is. Where not, what that is computed from is written. */
  fromComputed: boolean
  /** Whether it may stand in a key or an index where it is computed from a column that the engine counts. */
  fromCounted: boolean
  /** Whether it can be required by itself; where not, a check on what it is computed from says so. */
  required: boolean
  /** Whether it may stand in the primary key. */
  inPrimaryKey: boolean
  /** Whether what stands fast in an expression has to be worked out before it is written. */
  folded: boolean
}

/** What a reference may be between. */
export interface ReferenceFacts {
  /**
   * What becomes of a reference from a column of one type to one of another: it is taken, refused, or
   * compared otherwise than by what its values mean.
   */
  types(from: WrittenType, to: WrittenType, lists: readonly NamedValues[]): 'taken' | 'refused' | 'otherwise'
  /** What is refused where an action would change a computed column: the table, or the row that does it. */
  changingComputed: 'table' | 'row'
  /** Whether a reference of a computed column has an index of the engine's own, beside which none can be made. */
  indexesComputed: boolean
}

/** A logical type, and as the dialect writes it on its column. */
export interface WrittenType {
  type: Type
  sql: string
}

/**
 * How a logical type comes out in a dialect. `loss`: what it does not keep. `holds`: a condition that
 * holds the column to what the type itself does not.
 */
export interface TypeWords {
  sql: string
  loss?: string
  /** How many digits of a number are kept, where that is fewer than it may have. */
  inexact?: number
  holds?: (column: string) => string
  /** How long a value may be at the most, where the design sets no bound and the dialect must. */
  atMost?: number
  /** A condition that holds what is computed to the type, where a computed column is not. */
  holdsComputed?: (computed: string) => string
}

/**
 * What a type may depend on: the values of a list, how the list is called there, and whether the column
 * stands in a key or index (of so many columns).
 */
export interface TypeContext {
  values: readonly string[]
  listName: string
  inKey: number
}

/** Every logical type, one line each. */
export type TypeTable = {
  [K in Exclude<Type['kind'], 'native'>]: (
    type: Extract<Type, { kind: K }>,
    context: TypeContext
  ) => TypeWords
}

/** A type in a dialect. An engine's own type without a word for this one comes out as text. */
export function typeWords(
  table: TypeTable,
  dialect: string,
  title: string,
  type: Type,
  context: TypeContext
): TypeWords {
  if (type.kind === 'native') {
    const spelled = type.spelled[dialect] ?? type.spelled.any
    if (spelled !== undefined) return { sql: spelled }
    return {
      ...(table.text as (type: Extract<Type, { kind: 'text' }>, context: TypeContext) => TypeWords)(
        { kind: 'text' },
        context
      ),
      loss: `${title} has no word for native ${Object.values(type.spelled).join(', ')}: it is written as text.`
    }
  }
  return (table[type.kind] as (type: Type, context: TypeContext) => TypeWords)(type, context)
}

/**
 * About how many bytes a value takes in a key. Text counts four bytes a character, the most that UTF-8
 * has; nothing where there is no telling.
 */
export function keyBytes(type: Type, values: readonly string[] = []): number | undefined {
  switch (type.kind) {
    case 'integer':
      return type.size === 'small' ? 2 : type.size === 'normal' ? 4 : 8
    case 'decimal':
      return Math.ceil(type.precision / 2) + 2
    case 'boolean':
      return 1
    case 'float':
    case 'date':
    case 'time':
    case 'timestamp':
      return 8
    case 'interval':
    case 'uuid':
      return 16
    case 'char':
    case 'text':
      return type.length === undefined ? undefined : type.length * 4
    case 'binary':
      return type.length
    case 'enum':
      return Math.max(...values.map((value) => [...value].length), 1) * 4
    default:
      return undefined
  }
}

/** The most bytes that a column takes of a key, as the dialect writes it. */
export function bytesInKey(
  { type, sql }: WrittenType,
  { key }: Facts,
  lists: readonly NamedValues[]
): number {
  const values = lists.find(({ id }) => type.kind === 'enum' && id === type.enum)?.values
  const plain = keyBytes(type, values)
  if (plain === undefined) return 0
  const isText = type.kind === 'text' || type.kind === 'char'
  // A text that is too long for its own type of the engine is kept apart, and in no key.
  if (isText && !sql.includes(String(type.length))) return 0
  return isText ? (plain / 4) * (key?.perCharacter ?? 4) : plain
}

/** What a type's loss and writing depend on, for a type that stands on no column yet. */
export const LOOSE: TypeContext = { values: [], listName: '', inKey: 0 }
