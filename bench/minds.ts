import { findingsIn } from '../core/check/index.ts'
import { tableOf } from '../core/design/directory.ts'
import type { Design } from '../core/design/model.ts'
import { apply } from '../core/edit/apply.ts'
import { junctionSides } from '../core/relate/junction.ts'
import { offersFor } from '../core/restructure/index.ts'
import { districts } from '../demo/districts.ts'
import { measure, type Spread } from './measure.ts'

interface Line {
  what: string
  measured: Spread
  yardstick: string
  against: Spread
}

/** A design of which nothing is known yet. */
const fresh = (design: Design): Design => structuredClone(design)

/** One change of mind, from what is offered to the next design: a reference becomes a junction. */
function oneMind(design: Design): () => void {
  const table = design.tables.findLast(({ foreignKeys, primaryKey }) => {
    const [key] = foreignKeys
    return (
      key !== undefined &&
      primaryKey !== undefined &&
      !primaryKey.columns.includes(key.pairs[0]?.column ?? '')
    )
  })
  return () => {
    const foreignKey = table?.foreignKeys[0]
    if (!table || !foreignKey || !tableOf(design, foreignKey.table)) throw new Error('nothing to change')
    const offer = offersFor(design, { table, foreignKey }).find(({ kind }) => kind === 'to junction')
    const operation = offer?.operation()
    if (!operation?.ok) throw new Error(operation?.message ?? 'it is not offered')
    const result = apply(design, operation.value)
    if (!result.ok) throw new Error(result.refusal.message)
  }
}

/** What checks and changes of mind take on many tables, each beside the same on fewer. */
export async function benchMinds(): Promise<Line[]> {
  const [hundred, thousand, many] = [districts(100), districts(1000), districts(5000)]
  const checks = async (design: Design, runs: number): Promise<Spread> => {
    const copies = Array.from({ length: Math.ceil(runs * 1.2) }, () => fresh(design))
    return measure(runs, (run) => findingsIn(copies[run] as Design))
  }
  const sides = (design: Design): Promise<Spread> =>
    measure(20, () => design.tables.map((table) => junctionSides(table)))
  const [checked, checkedMany] = [await checks(thousand, 8), await checks(many, 4)]
  const [found, foundMany] = [await sides(thousand), await sides(many)]
  const [mind, mindSmall] = [await measure(40, oneMind(thousand)), await measure(40, oneMind(hundred))]
  return [
    {
      what: 'all checks on 5,000 tables',
      measured: checkedMany,
      yardstick: 'the same on 1,000',
      against: checked
    },
    {
      what: 'recognising the junctions among 5,000 tables',
      measured: foundMany,
      yardstick: 'the same among 1,000',
      against: found
    },
    {
      what: 'one change of mind at 1,000 tables: a reference becomes a junction',
      measured: mind,
      yardstick: 'the same at 100',
      against: mindSmall
    }
  ]
}
