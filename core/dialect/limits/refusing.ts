import type { ForeignKey } from '../../design/model.ts'
import type { Operation } from '../../edit/operation.ts'

/** What has a reference refuse a delete, a change of the key, or both, whatever it did before. */
export function refusing(
  table: string,
  { id, onDelete, onUpdate }: Pick<ForeignKey, 'id' | 'onDelete' | 'onUpdate'>,
  what: readonly ('delete' | 'update')[]
): Operation {
  return {
    kind: 'foreignKey.setActions',
    table,
    foreignKey: id,
    onDelete: what.includes('delete') ? 'NO ACTION' : onDelete,
    onUpdate: what.includes('update') ? 'NO ACTION' : onUpdate
  }
}
