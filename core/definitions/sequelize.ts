import { columnOf, tableOf } from '../design/directory.ts'
import type { Design, ForeignKey } from '../design/model.ts'
import { once } from '../once.ts'
import { madeBy, oneLine } from './made-by.ts'
import { shapeOf, type Entity, type Field, type Shape } from './shape.ts'
import { quoted } from './typescript.ts'
import { TYPESCRIPT } from './typescript-names.ts'
import type { Tongue } from './code-names.ts'

/** What every model has already, so that no attribute may be called so. */
const OWN =
  'Model addHook attributes changed count create dataValues decrement destroy equals findAll get getDataValue hasMany increment init isNewRecord isSoftDeleted previous rawAttributes reload restore save sequelize set setAttributes setDataValue toJSON update validate where'

export const SEQUELIZE: Tongue = {
  ...TYPESCRIPT,
  reserved: new Set([...TYPESCRIPT.reserved, 'DataTypes', 'Sequelize', ...OWN.split(' ')]),
  // It gives what has no key one of its own, and is not talked out of that where something else is called so.
  reservedWithoutKey: new Set(['id'])
}

/**
 * Models for Sequelize, as a module that defines them on a connection: attributes by their names in code, associations
 * both ways with the names of their ends, many-to-many through junctions, keys and referential actions. It makes no
 * table: those come from the SQL. References by several columns are left to the query, since it knows none.
 */
export function toSequelize(design: Design, tongue: Tongue = SEQUELIZE, version?: string): string {
  const shape = shapeOf(design, tongue, version)
  const lines = [
    ...[...madeBy(shape), ...shape.remarks].map((line) => `// ${oneLine(line)}`),
    "import { DataTypes } from 'sequelize'",
    '',
    '/** Defines all models on a connection, and gives them by their names. */',
    'export function defineModels(sequelize) {',
    ...shape.entities.flatMap((entity) => modelLines(design, shape, entity)),
    // What leads across a junction comes first: by the way it takes the junction's own name for a moment.
    ...shape.entities.flatMap((entity) => acrossLines(shape, entity)),
    ...shape.entities.flatMap((entity) => endLines(design, entity)),
    `  return { ${shape.entities.map(({ type }) => type).join(', ')} }`,
    '}'
  ]
  return `${lines.join('\n')}\n`
}

function modelLines(design: Design, shape: Shape, entity: Entity): string[] {
  const { type, table, schema, fields, key, note } = entity
  const options = [
    `modelName: ${quoted(type)}`,
    `tableName: ${quoted(table)}`,
    ...(schema === undefined ? [] : [`schema: ${quoted(schema)}`]),
    'timestamps: false'
  ]
  return [
    ...(note === undefined ? [] : [`  // ${oneLine(note)}`]),
    `  const ${type} = sequelize.define(${quoted(type)}, {`,
    ...fields.map((field) => `    ${field.name}: { ${attribute(design, shape, entity, field).join(', ')} },`),
    `  }, { ${options.join(', ')} })`,
    // It would be given a key of its own.
    ...(key.length === 0 ? [`  ${type}.removeAttribute('id')`] : []),
    ''
  ]
}

function attribute(design: Design, shape: Shape, entity: Entity, field: Field): string[] {
  const column = tableOf(design, entity.id)
  const begins = column && columnOf(column, field.id)?.default
  const isKey = entity.key.includes(field.name)
  // It counts one field of a model that has a key; what else the database counts is left to that.
  const isCounted =
    entity.key.length > 0 && entity.fields.find(({ given }) => given === 'generated') === field
  const isGiven = field.given !== undefined && field.given !== 'copied' && !isCounted
  return [
    `field: ${quoted(field.column)}`,
    `type: ${typeOf(shape, field)}`,
    // What the database gives may be left out, so that it is not asked for beforehand.
    `allowNull: ${field.optional || isGiven}`,
    ...(isKey ? ['primaryKey: true'] : []),
    ...(isCounted ? ['autoIncrement: true'] : []),
    ...(begins?.kind === 'value' && typeof begins.value !== 'string' ? [`defaultValue: ${begins.value}`] : [])
  ]
}

function typeOf({ lists }: Shape, { type, list }: Field): string {
  const values = lists.find((each) => each.type === list)?.values
  if (values) return `DataTypes.ENUM(${values.map(quoted).join(', ')})`
  switch (type.kind) {
    case 'integer':
      return `DataTypes.${{ small: 'SMALLINT', normal: 'INTEGER', big: 'BIGINT' }[type.size]}`
    case 'decimal':
      return `DataTypes.DECIMAL(${type.precision}, ${type.scale})`
    case 'float':
      return 'DataTypes.DOUBLE'
    case 'boolean':
      return 'DataTypes.BOOLEAN'
    case 'text':
      return type.length === undefined ? 'DataTypes.TEXT' : `DataTypes.STRING(${type.length})`
    case 'char':
      return `DataTypes.CHAR(${type.length})`
    case 'date':
      return 'DataTypes.DATEONLY'
    case 'time':
      return 'DataTypes.TIME'
    case 'timestamp':
      return 'DataTypes.DATE'
    case 'uuid':
      return 'DataTypes.UUID'
    case 'json':
      return 'DataTypes.JSON'
    case 'binary':
      return 'DataTypes.BLOB'
    case 'interval':
    case 'enum':
    case 'native':
      return 'DataTypes.STRING'
  }
}

function endLines(design: Design, { type, ends }: Entity): string[] {
  return ends.flatMap((end) => {
    const [pair, ...more] = end.on
    const key = keysOf(design).get(end.reference)
    if (!pair || !key) return []
    if (more.length > 0) {
      const fields = end.on.map(({ own }) => own).join(', ')
      return [`  // ${type}.${end.name} is joined by ${fields}: to be queried by hand.`]
    }
    const [here, there] = [quoted(pair.own), quoted(pair.its)]
    const options = [
      `as: ${quoted(end.name)}`,
      ...(end.holds
        ? [`foreignKey: ${here}`, `targetKey: ${there}`]
        : [`foreignKey: ${there}`, `sourceKey: ${here}`]),
      `onDelete: ${quoted(key.onDelete)}`,
      `onUpdate: ${quoted(key.onUpdate)}`,
      'constraints: false'
    ]
    const kind = end.holds ? 'belongsTo' : end.many ? 'hasMany' : 'hasOne'
    return [`  ${type}.${kind}(${end.to}, { ${options.join(', ')} })`]
  })
}

const keysOf = once(
  (design: Design): ReadonlyMap<string, ForeignKey> =>
    new Map(design.tables.flatMap(({ foreignKeys }) => foreignKeys).map((key) => [key.id, key]))
)

function acrossLines({ entities }: Shape, { type, ends, across }: Entity): string[] {
  const entityOf = (name: string): Entity | undefined => entities.find((each) => each.type === name)
  const isAlias = (name: string, of: Entity | undefined): boolean =>
    of?.across.some((each) => each.name === name) ?? false
  return across.flatMap(({ name, to, through, by, on }) => {
    const [here, ...others] = ends.find((end) => end.name === by)?.on ?? []
    const [there, ...more] = entityOf(through)?.ends.find((end) => end.name === on)?.on ?? []
    const isClash = isAlias(through, entityOf(type)) || isAlias(through, entityOf(to))
    if (!here || !there || others.length > 0 || more.length > 0 || isClash)
      return [`  // ${type}.${name} leads through ${through}: to be queried by hand.`]
    const options = [
      `as: ${quoted(name)}`,
      `through: { model: ${through}, unique: false }`,
      `foreignKey: ${quoted(here.its)}`,
      `otherKey: ${quoted(there.own)}`,
      `sourceKey: ${quoted(here.own)}`,
      `targetKey: ${quoted(there.its)}`,
      'constraints: false'
    ]
    return [`  ${type}.belongsToMany(${to}, { ${options.join(', ')} })`]
  })
}
