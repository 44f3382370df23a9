import type { Column } from '../core/design/model.ts'
import { parseType } from '../core/design/type.ts'

/** A column by its name and its type as it is typed; its id is its name behind `c_`. */
export function column(name: string, type: string, more: Partial<Column> = {}): Column {
  const parsed = parseType(type)
  if (!parsed.ok) throw new Error(parsed.message)
  return { id: `c_${name}`, name, type: parsed.value, required: false, ...more }
}
