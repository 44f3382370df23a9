/**
 * In a catalog a table is named by one string, whether or not it stands in a schema: its name, with the
 * schema's before it and a NUL between, which no name can have in it.
 */
const BETWEEN = '\u0000'

export const qualify = (schema: string | undefined, name: string): string =>
  schema === undefined ? name : schema + BETWEEN + name

/** The name and, before it, the schema where there is one. */
export const nameParts = (qualified: string): string[] => qualified.split(BETWEEN)

/** As a person reads it: `staff.person`. */
export const sayTable = (qualified: string): string => nameParts(qualified).join('.')

/** The schema of a qualified name, or nothing. */
export const schemaOf = (qualified: string): string | undefined =>
  qualified.includes(BETWEEN) ? nameParts(qualified)[0] : undefined
