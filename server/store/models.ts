import { DataTypes, type Model, type ModelStatic, type Sequelize } from 'sequelize'

/**
 * A design as it is kept: where its log stands. `mark` stands for all that was done to it up to its last
 * operation (./marks.ts); `versions` is how many there are, `checksum` of the row itself but for `tables`, which is how
 * many the draft has: it is only shown, and -1 where nobody has counted.
 */
export interface DesignRow {
  id: string
  name: string
  revision: number
  mark: string
  versions: number
  createdAt: string
  changedAt: string
  tables: number
  checksum: string
}
/** The draft whole at a revision; the last two are kept, so that a damaged one can be done without. */
export interface SnapshotRow {
  designId: string
  revision: number
  mark: string
  design: string
  checksum: string
}
/**
 * One operation of the log. `operationId` is the client's own, so that one sent twice is taken once;
 * `mark` is its checksum, chained to the one before.
 */
export interface OperationRow {
  designId: string
  revision: number
  operationId: string
  client: string
  operation: string
  at: string
  mark: string
}
export interface VersionRow {
  designId: string
  number: number
  note: string
  savedAt: string
  design: string
  checksum: string
}

export interface Models {
  designs: ModelStatic<Model<DesignRow, DesignRow>>
  snapshots: ModelStatic<Model<SnapshotRow, SnapshotRow>>
  operations: ModelStatic<Model<OperationRow, OperationRow>>
  versions: ModelStatic<Model<VersionRow, VersionRow>>
}

/** How the rows are reached; the tables themselves are made by ./upgrades.ts. */
export function defineModels(sequelize: Sequelize): Models {
  const required = { allowNull: false }
  const options = { timestamps: false, freezeTableName: true }
  const designId = { type: DataTypes.STRING, primaryKey: true }
  const designs = sequelize.define<Model<DesignRow, DesignRow>>(
    'design',
    {
      id: { type: DataTypes.STRING, primaryKey: true },
      name: { type: DataTypes.STRING, ...required },
      revision: { type: DataTypes.INTEGER, ...required },
      mark: { type: DataTypes.STRING, ...required },
      versions: { type: DataTypes.INTEGER, ...required },
      createdAt: { type: DataTypes.STRING, ...required },
      changedAt: { type: DataTypes.STRING, ...required },
      tables: { type: DataTypes.INTEGER, ...required },
      checksum: { type: DataTypes.STRING, ...required }
    },
    options
  )
  const snapshots = sequelize.define<Model<SnapshotRow, SnapshotRow>>(
    'snapshot',
    {
      designId,
      revision: { type: DataTypes.INTEGER, primaryKey: true },
      mark: { type: DataTypes.STRING, ...required },
      design: { type: DataTypes.TEXT, ...required },
      checksum: { type: DataTypes.STRING, ...required }
    },
    options
  )
  const operations = sequelize.define<Model<OperationRow, OperationRow>>(
    'operation',
    {
      designId,
      revision: { type: DataTypes.INTEGER, primaryKey: true },
      operationId: { type: DataTypes.STRING, ...required },
      client: { type: DataTypes.STRING, ...required },
      operation: { type: DataTypes.TEXT, ...required },
      at: { type: DataTypes.STRING, ...required },
      mark: { type: DataTypes.STRING, ...required }
    },
    options
  )
  const versions = sequelize.define<Model<VersionRow, VersionRow>>(
    'version',
    {
      designId,
      number: { type: DataTypes.INTEGER, primaryKey: true },
      note: { type: DataTypes.TEXT, ...required },
      savedAt: { type: DataTypes.STRING, ...required },
      design: { type: DataTypes.TEXT, ...required },
      checksum: { type: DataTypes.STRING, ...required }
    },
    options
  )
  return { designs, snapshots, operations, versions }
}
