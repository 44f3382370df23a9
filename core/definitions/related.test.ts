import { describe, expect, it } from 'vitest'
import { csharpErrors, javaErrors, phpErrors, pythonErrors } from '../../tests/compilers.ts'
import { related } from '../../tests/related.ts'
import { compileErrors } from '../../tests/typescript.ts'
import { OUTPUTS } from './outputs.ts'

const written = (name: string): string =>
  OUTPUTS.find((each) => each.name === name)?.write(related) ?? expect.fail(`no ${name}`)

/** What each output says of each way in which tables are related, on lines of its own. */
const SAYS: Record<string, Record<string, string[]>> = {
  'a table related to itself': {
    typescript: ['  answers: Note | null', '  notesByAnswers: Note[]'],
    'data-access': [
      "          rows.one<Note>(TABLES.note, 'its.note_id = $1', held(TABLES.note, row, ['answersId'])),",
      "          rows.many<Note>(TABLES.note, 'its.answers_id = $1', held(TABLES.note, row, ['noteId'])),"
    ],
    sequelize: [
      "  Note.belongsTo(Note, { as: 'answers', foreignKey: 'answersId', targetKey: 'noteId', onDelete: 'SET NULL', onUpdate: 'NO ACTION', constraints: false })"
    ],
    graphql: ['  answers: Note', '  notesByAnswers: [Note!]!'],
    php: ['    public ?Note $answers = null;', '    public array $notesByAnswers = [];'],
    csharp: ['        public Note Answers { get; set; }'],
    jakarta: [
      '    @OneToMany(mappedBy = "answers")',
      '    @JoinColumn(name = "answers_id", referencedColumnName = "note_id")'
    ]
  },
  'two relationships between the same tables': {
    typescript: ['  writer: Volunteer', '  sender: Volunteer | null', '  lettersByWriter: Letter[]'],
    'data-access': [
      "          rows.only<Volunteer>(TABLES.volunteer, 'its.volunteer_id = $1', held(TABLES.letter, row, ['writerId'])),",
      "          rows.one<Volunteer>(TABLES.volunteer, 'its.volunteer_id = $1', held(TABLES.letter, row, ['senderId'])),"
    ],
    graphql: ['  writer: Volunteer!', '  sender: Volunteer'],
    php: ['    public Volunteer $writer;', '    public ?Volunteer $sender = null;'],
    jakarta: ['    @OneToMany(mappedBy = "writer")', '    @OneToMany(mappedBy = "sender")']
  },
  'a composite key that is referred to': {
    typescript: ["export type PenKey = Pick<Pen, 'wardCode' | 'penNo'>", '  pen: Pen'],
    'data-access': [
      "          rows.only<Pen>(TABLES.pen, 'its.ward_code = $1 AND its.pen_no = $2', held(TABLES.place, row, ['wardCode', 'penNo'])),"
    ],
    graphql: ['  pen(wardCode: String!, penNo: Int!): Pen'],
    php: ["    public const KEY = ['wardCode', 'penNo'];"],
    jakarta: [
      '@IdClass(PenId.class)',
      '    @JoinColumns({ @JoinColumn(name = "ward_code", referencedColumnName = "ward_code", insertable = false, updatable = false), @JoinColumn(name = "pen_no", referencedColumnName = "pen_no", insertable = false, updatable = false) })'
    ]
  },
  'a shared key': {
    typescript: ['  badge: Badge | null'],
    'data-access': [
      "          rows.one<Badge>(TABLES.badge, 'its.volunteer_id = $1', held(TABLES.volunteer, row, ['volunteerId'])),"
    ],
    sequelize: [
      "  Volunteer.hasOne(Badge, { as: 'badge', foreignKey: 'volunteerId', sourceKey: 'volunteerId', onDelete: 'CASCADE', onUpdate: 'NO ACTION', constraints: false })"
    ],
    graphql: ['  badge: Badge'],
    php: ['    public ?Badge $badge = null;'],
    jakarta: [
      '    @OneToOne(mappedBy = "volunteer")',
      '    @OneToOne(fetch = FetchType.LAZY, optional = false)'
    ]
  },
  'a junction without anything of its own': {
    typescript: ['  skills: Skill[]', '  volunteers: Volunteer[]'],
    sequelize: [
      "  Volunteer.belongsToMany(Skill, { as: 'skills', through: { model: VolunteerSkill, unique: false }, foreignKey: 'volunteerId', otherKey: 'skillId', sourceKey: 'volunteerId', targetKey: 'skillId', constraints: false })"
    ],
    php: ['    /** @var list<Skill> By way of VolunteerSkill. */'],
    jakarta: ['    @ManyToMany(mappedBy = "skills")']
  },
  'a junction of three, with something of its own': {
    typescript: ['  skillsByDuty: Skill[]', '  wards: Ward[]', '  hours: string | null'],
    'data-access': [
      "        wards: async (row: Pick<Volunteer, 'volunteerId'>, pair: Omit<NewDuty, 'volunteerId'>) =>"
    ],
    graphql: ['  skillsByDuty: [Skill!]!', '  wards: [Ward!]!'],
    jakarta: ['@IdClass(DutyId.class)', 'public class Duty {'],
    'label-views': ['CREATE VIEW duty_labels AS', '  side_3.name AS ward_name']
  }
}

describe('every way in which tables are related', () => {
  for (const [way, outputs] of Object.entries(SAYS))
    it(`is said by each output: ${way}`, () => {
      for (const [name, lines] of Object.entries(outputs)) {
        const all = new Set(written(name).split('\n'))
        for (const line of lines) expect(all.has(line), `${name} says “${line}”`).toBe(true)
      }
    })

  it('is taken by the compiler of each language', () => {
    const files = (name: string): { path: string; text: string }[] =>
      OUTPUTS.find((each) => each.name === name)?.files?.(related) ?? []
    expect(
      compileErrors(
        new Map(['typescript', 'data-access', 'zod'].map((name) => [`${name}.ts`, written(name)]))
      )
    ).toEqual([])
    expect(phpErrors(files('php'))).toBe('')
    expect(javaErrors(files('jakarta'))).toBe('')
    expect(pythonErrors([{ path: 'rows.py', text: written('python') }])).toBe('')
    expect(csharpErrors([{ path: 'Rows.cs', text: written('csharp') }])).toBe('')
  })
})
