import type { CatalogType } from '../catalog.ts'

/** Whether a column can become so as it stands: more digits or more characters of the same. */
export function isWider(from: CatalogType, to: CatalogType): boolean {
  const sizes = ({ sql }: CatalogType): [kind: string, ...number[]] => {
    const [kind = '', ...numbers] = sql.split(/[(,) ]+/)
    return [kind, ...numbers.map(Number).filter((n) => !Number.isNaN(n))]
  }
  const [[one, before = 0, scale = 0], [other, after = 0, scaled = 0]] = [sizes(from), sizes(to)]
  if (one !== other) return false
  if (one === 'number') return scaled >= scale && after - scaled >= before - scale
  return one === 'varchar2' && after >= before
}
