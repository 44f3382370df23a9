import type { Design } from '../design/model.ts'
import { FreeNames, identifier, type Tongue } from './code-names.ts'
import { madeBy, oneLine, type CodeFile } from './made-by.ts'
import { noteIn } from './nearest.ts'
import { shapeOf, type Across, type End, type Entity, type Field, type List, type Shape } from './shape.ts'

/** Keywords and literals (Java Language Specification 17, 3.9), and what the files themselves use. */
const KEYWORDS =
  'abstract assert boolean break byte case catch char class const continue default do double else enum extends final finally float for goto if implements import instanceof int interface long native new package private protected public return short static strictfp super switch synchronized this throw throws transient try void volatile while true false null _'
const USED =
  'ArrayList AttributeConverter BigDecimal Boolean Column Convert Converter Double InDatabase Entity FetchType GeneratedValue GenerationType Id IdClass Integer JoinColumn JoinColumns JoinTable List LocalDate LocalDateTime LocalTime Long ManyToMany ManyToOne Object Objects OffsetDateTime OneToMany OneToOne Override Serializable Short String System Table UUID'

export const JAVA_WORDS: ReadonlySet<string> = new Set(KEYWORDS.split(' '))

/** How names are written in Java: a file is called as its class, and some disks take large letters for small ones. */
export const JAVA: Tongue = {
  types: 'UpperCamel',
  fields: 'lowerCamel',
  plainLetters: true,
  foldsTypes: true,
  // What each object has already gets its class, and no other getter may be called so.
  reserved: new Set([...KEYWORDS.split(' '), ...USED.split(' '), 'class'])
}

/**
 * Entities for Jakarta Persistence, a file for each: ids of one field or several, both ends of each relationship, and
 * many to many where a junction has nothing of its own. A reference is written by its object where its columns are in no
 * key and in no other reference; else by its fields, and the object is only read. A table without a key is no entity.
 */
export function toJakarta(design: Design, packageName: string, version?: string): CodeFile[] {
  const shape = shapeOf(design, JAVA, version)
  const head = [
    ...[...madeBy(shape), ...shape.remarks].map((line) => `// ${inComment(line)}`),
    `package ${packageName};`,
    ''
  ]
  const file = (type: string, lines: string[]): CodeFile => ({
    path: `${type}.java`,
    text: `${[...head, ...lines].join('\n')}\n`
  })
  const roles = new Roles(shape)
  return [
    ...shape.lists.map((list) => file(list.type, listLines(list))),
    ...roles.entities.flatMap((entity) => [
      file(entity.type, entityLines(entity, roles)),
      ...(entity.key.length > 1 ? [file(`${entity.type}Id`, idLines(entity))] : [])
    ])
  ]
}

/** A backslash before a u would begin a letter even in a comment. */
const inComment = (text: string): string => oneLine(text).replaceAll('\\', '\\\\')
const quoted = (text: string): string => JSON.stringify(text)

/** Which tables are entities, and which junctions stand for nothing but many to many. */
class Roles {
  readonly entities: readonly Entity[]
  private readonly byType: ReadonlyMap<string, Entity>
  private readonly joins: ReadonlySet<string>

  constructor({ entities }: Shape) {
    this.joins = new Set(entities.filter((entity) => isOnlyJoin(entity)).map(({ type }) => type))
    this.entities = entities.filter(({ type, key }) => key.length > 0 && !this.joins.has(type))
    this.byType = new Map(entities.map((entity) => [entity.type, entity]))
  }

  isEntity(type: string): boolean {
    return this.entities.some((entity) => entity.type === type)
  }

  isJoin(type: string): boolean {
    return this.joins.has(type)
  }

  of(type: string): Entity {
    return this.byType.get(type) as Entity
  }
}

/** A junction of two sides whose rows hold nothing besides, and that nothing else refers to. */
function isOnlyJoin({ is, hasOwn, ends, key, fields }: Entity): boolean {
  const sides = ends.filter(({ holds }) => holds)
  const referring = new Set(sides.flatMap(({ on }) => on.map(({ own }) => own)))
  const isPair = sides.length === 2 && sides.length === ends.length
  return (
    is === 'junction' &&
    !hasOwn &&
    isPair &&
    key.length > 0 &&
    fields.every(({ name }) => referring.has(name))
  )
}

/** A list as an enum, and how its values stand in the database. */
function listLines({ type, name, values }: List): string[] {
  const free = new FreeNames()
  const members = values.map((value, at) => {
    const called = free.give(identifier(value, 'UPPER_SNAKE', JAVA, `value ${at + 1}`))
    return `    ${called}(${quoted(value)})${at === values.length - 1 ? ';' : ','}`
  })
  return [
    'import jakarta.persistence.AttributeConverter;',
    'import jakarta.persistence.Converter;',
    '',
    `/** The list of values ${inComment(name)}. */`,
    `public enum ${type} {`,
    ...(members.length > 0 ? members : ['    ;']),
    '',
    '    private final String value;',
    '',
    `    ${type}(String value) {`,
    '        this.value = value;',
    '    }',
    '',
    '    /** Between the list and its values in the database. */',
    '    @Converter',
    `    public static class InDatabase implements AttributeConverter<${type}, String> {`,
    '        @Override',
    `        public String convertToDatabaseColumn(${type} one) {`,
    '            return one == null ? null : one.value;',
    '        }',
    '',
    '        @Override',
    `        public ${type} convertToEntityAttribute(String value) {`,
    `            for (${type} each : values()) {`,
    '                if (each.value.equals(value)) {',
    '                    return each;',
    '                }',
    '            }',
    '            return null;',
    '        }',
    '    }',
    '}'
  ]
}

function typeOf({ type, list }: Pick<Field, 'type' | 'list'>): string {
  if (list !== undefined) return list
  switch (type.kind) {
    case 'integer':
      return { small: 'Short', normal: 'Integer', big: 'Long' }[type.size]
    case 'decimal':
      return 'BigDecimal'
    case 'float':
      return 'Double'
    case 'boolean':
      return 'Boolean'
    case 'date':
      return 'LocalDate'
    case 'time':
      return 'LocalTime'
    case 'timestamp':
      return type.zone ? 'OffsetDateTime' : 'LocalDateTime'
    case 'uuid':
      return 'UUID'
    case 'binary':
      return 'byte[]'
    default:
      return 'String'
  }
}

const IMPORTS = [
  'jakarta.persistence.*',
  'java.io.Serializable',
  'java.math.BigDecimal',
  'java.time.*',
  'java.util.ArrayList',
  'java.util.List',
  'java.util.Objects',
  'java.util.UUID'
].map((name) => `import ${name};`)

/** What a class has: how it is declared with what is said of it, and what its getter and setter are of. */
interface Member {
  name: string
  type: string
  lines: string[]
}

/** The references of an entity that are written by their objects: by columns that nothing else is told by. */
function writtenByObject({ ends, key }: Entity): ReadonlySet<string> {
  const holding = ends.filter(({ holds }) => holds)
  const isAlone = (end: End): boolean =>
    end.on.every(
      ({ own }) =>
        !key.includes(own) &&
        holding.every((each) => each === end || each.on.every((pair) => pair.own !== own))
    )
  return new Set(holding.filter(isAlone).map(({ name }) => name))
}

function entityLines(entity: Entity, roles: Roles): string[] {
  const { type, table, schema, note, key, fields, ends, across } = entity
  const there = ends.filter(({ to }) => roles.isEntity(to))
  const byObject = writtenByObject({ ...entity, ends: there })
  const held = new Set(
    there
      .filter(({ name, holds }) => holds && byObject.has(name))
      .flatMap(({ on }) => on.map(({ own }) => own))
  )
  const members = [
    ...fields.filter(({ name }) => !held.has(name)).map((field) => fieldMember(entity, field)),
    ...there.map((end) => endMember(entity, end, roles, byObject.has(end.name))),
    ...across.flatMap((each) => acrossMember(entity, each, roles))
  ]
  const named = [`name = ${inSql(table)}`, ...(schema === undefined ? [] : [`schema = ${inSql(schema)}`])]
  return [
    ...IMPORTS,
    '',
    `/** ${inComment([`A row of ${table}.`, note ?? ''].join(' ').trim())} */`,
    `@Entity(name = ${quoted(type)})`,
    `@Table(${named.join(', ')})`,
    ...(key.length > 1 ? [`@IdClass(${type}Id.class)`] : []),
    `public class ${type} {`,
    ...members.flatMap(({ lines }) => [...lines.map((line) => `    ${line}`), '']),
    ...members.flatMap((member, at) => accessors(member, at === members.length - 1)),
    '}'
  ]
}

/** A name as it stands in the database, whatever its letters: in quotes of the standard's own. */
const inSql = (name: string): string => (/^[a-z_][a-z0-9_]*$/.test(name) ? quoted(name) : quoted(`"${name}"`))

function fieldMember({ key }: Entity, field: Field): Member {
  const { name, column, type, list, optional, given } = field
  const isKey = key.includes(name)
  const isWritten = given !== 'computed'
  const said = [
    `name = ${inSql(column)}`,
    ...(optional ? [] : ['nullable = false']),
    ...((type.kind === 'text' || type.kind === 'char') && type.length !== undefined
      ? [`length = ${type.length}`]
      : []),
    ...(type.kind === 'decimal' ? [`precision = ${type.precision}`, `scale = ${type.scale}`] : []),
    ...(isWritten ? [] : ['insertable = false', 'updatable = false'])
  ]
  // No converter may be on a key, which has the values as they stand in the database.
  const java = list !== undefined && isKey ? 'String' : typeOf(field)
  const note = noteIn(field, java === 'String')
  return {
    name,
    type: java,
    lines: [
      ...(note ? [`/** ${inComment(note)} */`] : []),
      ...(isKey ? ['@Id'] : []),
      ...(isKey && given === 'generated' ? ['@GeneratedValue(strategy = GenerationType.IDENTITY)'] : []),
      `@Column(${said.join(', ')})`,
      ...(java !== list ? [] : [`@Convert(converter = ${list}.InDatabase.class)`]),
      `private ${java} ${name};`
    ]
  }
}

/** The columns by which a row refers to another. */
function joinColumns(pairs: readonly { column: string; its: string }[], more: string): string {
  const each = pairs.map(
    ({ column, its }) => `@JoinColumn(name = ${inSql(column)}, referencedColumnName = ${inSql(its)}${more})`
  )
  return each.length === 1 ? (each[0] as string) : `@JoinColumns({ ${each.join(', ')} })`
}

const columnOf = ({ fields }: Entity, field: string): string =>
  fields.find(({ name }) => name === field)?.column ?? ''

function endMember(entity: Entity, end: End, roles: Roles, isByObject: boolean): Member {
  const { name, to, holds, many, optional, on, says } = end
  const other = roles.of(to)
  const back = other.ends.find((each) => each.reference === end.reference && each.holds !== holds)
  const said = [`/** ${inComment(says)} */`]
  if (many)
    return {
      name,
      type: `List<${to}>`,
      lines: [
        ...said,
        `@OneToMany(mappedBy = ${quoted(back?.name ?? '')})`,
        `private List<${to}> ${name} = new ArrayList<>();`
      ]
    }
  if (!holds)
    return {
      name,
      type: to,
      lines: [...said, `@OneToOne(mappedBy = ${quoted(back?.name ?? '')})`, `private ${to} ${name};`]
    }
  const pairs = on.map(({ own, its }) => ({ column: columnOf(entity, own), its: columnOf(other, its) }))
  const kind = back && !back.many ? 'OneToOne' : 'ManyToOne'
  const isOptional = optional ? '' : ', optional = false'
  return {
    name,
    type: to,
    lines: [
      ...said,
      `@${kind}(fetch = FetchType.LAZY${isOptional})`,
      joinColumns(pairs, isByObject ? '' : ', insertable = false, updatable = false'),
      `private ${to} ${name};`
    ]
  }
}

/** Many to many, where the junction stands for nothing else; the side of its first reference keeps it. */
function acrossMember(entity: Entity, { name, to, through, near, far }: Across, roles: Roles): Member[] {
  if (!roles.isJoin(through) || !roles.isEntity(to)) return []
  const [junction, other] = [roles.of(through), roles.of(to)]
  const [first] = junction.ends
  const back = other.across.find((each) => each.near === far && each.far === near)
  const side = (reference: string, of: Entity): string => {
    const end = junction.ends.find((each) => each.reference === reference)
    const pairs = (end?.on ?? []).map(({ own, its }) => ({
      column: columnOf(junction, own),
      its: columnOf(of, its)
    }))
    return `{ ${pairs.map((pair) => joinColumns([pair], '')).join(', ')} }`
  }
  const schema = junction.schema === undefined ? '' : `, schema = ${inSql(junction.schema)}`
  const keeps = [
    '@ManyToMany',
    `@JoinTable(name = ${inSql(junction.table)}${schema}, joinColumns = ${side(near, entity)}, inverseJoinColumns = ${side(far, other)})`
  ]
  return [
    {
      name,
      type: `List<${to}>`,
      lines: [
        `/** By way of ${inComment(junction.table)}. */`,
        ...(first?.reference === near ? keeps : [`@ManyToMany(mappedBy = ${quoted(back?.name ?? '')})`]),
        `private List<${to}> ${name} = new ArrayList<>();`
      ]
    }
  ]
}

function accessors({ name, type }: Member, isLast: boolean): string[] {
  const large = name.charAt(0).toUpperCase() + name.slice(1)
  return [
    `    public ${type} get${large}() {`,
    `        return ${name};`,
    '    }',
    '',
    `    public void set${large}(${type} ${name}) {`,
    `        this.${name} = ${name};`,
    '    }',
    ...(isLast ? [] : [''])
  ]
}

/** The id of an entity that has several fields in its key. */
function idLines({ type, key, fields }: Entity): string[] {
  const parts = key.map((name) => {
    const field = fields.find((each) => each.name === name) as Field
    return { name, type: field.list === undefined ? typeOf(field) : 'String' }
  })
  const same = parts.map(({ name }) => `Objects.equals(this.${name}, that.${name})`)
  return [
    ...IMPORTS,
    '',
    `/** What a row of ${type} is found by. */`,
    `public class ${type}Id implements Serializable {`,
    ...parts.map((part) => `    private ${part.type} ${part.name};`),
    '',
    `    public ${type}Id() {`,
    '    }',
    '',
    `    public ${type}Id(${parts.map((part) => `${part.type} ${part.name}`).join(', ')}) {`,
    ...parts.map(({ name }) => `        this.${name} = ${name};`),
    '    }',
    '',
    '    @Override',
    '    public boolean equals(Object other) {',
    `        if (!(other instanceof ${type}Id)) {`,
    '            return false;',
    '        }',
    `        ${type}Id that = (${type}Id) other;`,
    `        return ${same.join('\n            && ')};`,
    '    }',
    '',
    '    @Override',
    '    public int hashCode() {',
    `        return Objects.hash(${parts.map(({ name }) => name).join(', ')});`,
    '    }',
    '}'
  ]
}
