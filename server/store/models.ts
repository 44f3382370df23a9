import { DataTypes, type Model, type ModelStatic, type Sequelize } from 'sequelize'

/** A design as it is kept: a snapshot of the draft at a revision; operations after it are in the log. */
export interface DesignRow { id: string; name: string; revision: number; snapshot: string; createdAt: string; changedAt: string }
/** One operation of the log. `operationId` is the client's own, so that one sent twice is taken once. */
export interface OperationRow { designId: string; revision: number; operationId: string; client: string; operation: string; at: string }
export interface VersionRow { designId: string; number: number; note: string; savedAt: string; design: string }

export interface Models {
  designs: ModelStatic<Model<DesignRow, DesignRow>>
  operations: ModelStatic<Model<OperationRow, OperationRow>>
  versions: ModelStatic<Model<VersionRow, VersionRow>>
}

export function defineModels(sequelize: Sequelize): Models {
  const required = { allowNull: false }
  const options = { timestamps: false, freezeTableName: true }
  const designs = sequelize.define<Model<DesignRow, DesignRow>>('design', {
    id: { type: DataTypes.STRING, primaryKey: true },
    name: { type: DataTypes.STRING, ...required },
    revision: { type: DataTypes.INTEGER, ...required },
    snapshot: { type: DataTypes.TEXT, ...required },
    createdAt: { type: DataTypes.STRING, ...required },
    changedAt: { type: DataTypes.STRING, ...required }
  }, options)
  const designId = { type: DataTypes.STRING, primaryKey: true, references: { model: 'design', key: 'id' }, onDelete: 'CASCADE' }
  const operations = sequelize.define<Model<OperationRow, OperationRow>>('operation', {
    designId,
    revision: { type: DataTypes.INTEGER, primaryKey: true },
    operationId: { type: DataTypes.STRING, ...required, unique: true },
    client: { type: DataTypes.STRING, ...required },
    operation: { type: DataTypes.TEXT, ...required },
    at: { type: DataTypes.STRING, ...required }
  }, options)
  const versions = sequelize.define<Model<VersionRow, VersionRow>>('version', {
    designId,
    number: { type: DataTypes.INTEGER, primaryKey: true },
    note: { type: DataTypes.TEXT, ...required },
    savedAt: { type: DataTypes.STRING, ...required },
    design: { type: DataTypes.TEXT, ...required }
  }, options)
  return { designs, operations, versions }
}
