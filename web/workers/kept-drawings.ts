import { openDB, type DBSchema, type IDBPDatabase } from 'idb'
import type { Position } from '../../core/design/model.ts'
import type { Scene } from '../../core/diagram/scene.ts'

/** A drawing as it was made last, with what it was made of. */
export interface KeptDrawing {
  name: string
  /** What was drawn and how, as a text: as long as it is the same, nothing stands elsewhere. */
  of: string
  /** Where tables were put by hand, as a text. */
  byHand: string
  own: ReadonlyMap<string, Position>
  scene: Scene
  /** Milliseconds since 1970. */
  usedAt: number
}

interface Kept extends DBSchema {
  drawings: { key: string; value: KeptDrawing; indexes: { usedAt: number } }
}

/** How many drawings are kept; of more, those that were not looked at for longest go. */
const MOST = 8

/**
 * Drawings that are kept in the browser, across screens and reloads, since laying out thousands of tables takes
 * seconds. Where the browser keeps nothing, they are made anew.
 */
export class KeptDrawings {
  private opened: Promise<IDBPDatabase<Kept>> | undefined

  constructor(private readonly called = 'patient-key-drawings') {}

  private database(): Promise<IDBPDatabase<Kept>> {
    this.opened ??= openDB<Kept>(this.called, 1, {
      upgrade(database) {
        database.createObjectStore('drawings', { keyPath: 'name' }).createIndex('usedAt', 'usedAt')
      }
    })
    return this.opened
  }

  async get(name: string): Promise<KeptDrawing | undefined> {
    return this.database()
      .then((database) => database.get('drawings', name))
      .catch(() => undefined)
  }

  async put(drawing: KeptDrawing): Promise<void> {
    await this.database()
      .then(async (database) => {
        const keeping = database.transaction('drawings', 'readwrite')
        await keeping.store.put(drawing)
        const names = await keeping.store.index('usedAt').getAllKeys()
        await Promise.all(names.slice(0, -MOST).map((name) => keeping.store.delete(name)))
        await keeping.done
      })
      .catch(() => undefined)
  }
}
