import { z } from 'zod'
import {
  nameSchema,
  policySchema,
  SHAPES,
  standingSchema,
  usualSchema,
  versionOfEngine,
  type Usual
} from '../design/model.ts'
import { shorten } from '../design/type.ts'
import { checkName } from './handler.ts'
import { kind, noun, type Handler, type OperationsOf } from './operation.ts'

/** The design itself: its name, and what all its tables share. */

const dialect = z.string().regex(/^[a-z]{1,20}$/)

const KINDS = [
  kind('design.rename', { name: nameSchema }, ({ name }) => `rename the design to ${shorten(name)}`),
  kind('design.setPolicy', { policy: policySchema }, () => 'change the naming policy'),
  /** What new tables and junctions begin with; null is nothing but their keys. */
  kind(
    'design.setStanding',
    { standing: standingSchema.nullable() },
    () => 'change what new tables begin with'
  ),
  /** What deletes do by policy; null is what is proposed. */
  kind('design.setUsual', { usual: usualSchema.nullable() }, () => 'change what deletes usually do'),
  kind(
    'design.setDialects',
    { dialects: z.array(dialect).max(20) },
    () => 'change what the design is written for'
  ),
  /** The oldest version of a dialect's engine that it is to run on; null is the usual one. */
  kind(
    'design.setOldest',
    { dialect, version: versionOfEngine.nullable() },
    (fields) => `change which version of ${fields.dialect} the design is to run on`
  )
] as const

declare module './operation.ts' {
  interface Operations extends OperationsOf<typeof KINDS> {}
}

const renameDesign: Handler<'design.rename'> = (design, { name }) => {
  checkName(name, {})
  return { design: { ...design, name }, inverse: { kind: 'design.rename', name: design.name }, touched: [] }
}

const setPolicy: Handler<'design.setPolicy'> = (design, { policy }) => ({
  design: { ...design, policy },
  inverse: { kind: 'design.setPolicy', policy: design.policy },
  touched: []
})

const setStanding: Handler<'design.setStanding'> = (design, { standing }) => {
  const { standing: before, ...bare } = design
  return {
    design: standing === null ? bare : { ...bare, standing },
    inverse: { kind: 'design.setStanding', standing: before ?? null },
    touched: []
  }
}

/** Said in one order, whatever was said first; what says nothing is left out. */
const setUsual: Handler<'design.setUsual'> = (design, { usual }) => {
  const { usual: before, ...bare } = design
  const shapes = SHAPES.flatMap((shape) => {
    const action = usual?.shapes[shape]
    return action ? [[shape, action]] : []
  })
  const tables = design.tables.flatMap(({ id }) => {
    const action = usual?.tables[id]
    return action ? [[id, action]] : []
  })
  const isNothing = shapes.length === 0 && tables.length === 0
  const next = { shapes: Object.fromEntries(shapes), tables: Object.fromEntries(tables) } as Usual
  return {
    design: isNothing ? bare : { ...design, usual: next },
    inverse: { kind: 'design.setUsual', usual: before ?? null },
    touched: []
  }
}

const setDialects: Handler<'design.setDialects'> = (design, { dialects }) => ({
  design: { ...design, dialects: [...new Set(dialects)] },
  inverse: { kind: 'design.setDialects', dialects: design.dialects },
  touched: []
})

const setOldest: Handler<'design.setOldest'> = (design, { dialect, version }) => {
  const others = Object.entries(design.oldest ?? {}).filter(([name]) => name !== dialect)
  const all = version === null ? others : [...others, [dialect, version] as const]
  const { oldest, ...rest } = design
  return {
    design: all.length === 0 ? rest : { ...rest, oldest: Object.fromEntries(all) },
    inverse: { kind: 'design.setOldest', dialect, version: oldest?.[dialect] ?? null },
    touched: []
  }
}

export const DESIGN = noun(KINDS, {
  'design.rename': renameDesign,
  'design.setPolicy': setPolicy,
  'design.setStanding': setStanding,
  'design.setUsual': setUsual,
  'design.setDialects': setDialects,
  'design.setOldest': setOldest
})
