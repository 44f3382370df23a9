import type { Design } from '../design/model.ts'
import { DIALECT_NAMES, DIALECTS, isDialect } from '../dialect/index.ts'
import { titles, type Finding } from './finding.ts'

/**
 * Another way out of what is found about some engines, as long as nobody has said what the design is written
 * for: that it is not written for these.
 */
export function leavingOut(design: Pick<Design, 'dialects'>, finding: Finding): Finding['fix'] {
  const about = (finding.dialects ?? []).filter(isDialect)
  const left = DIALECT_NAMES.filter((name) => !about.includes(name))
  const isChoice = design.dialects.length === 0 && about.length > 0 && left.length > 0
  if (!isChoice) return undefined
  return {
    label: `Not for ${titles(about.map((name) => DIALECTS[name]))}`,
    operation: { kind: 'design.setDialects', dialects: left }
  }
}
