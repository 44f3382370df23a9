import { openDB, type DBSchema, type IDBPDatabase } from 'idb'
import { z } from 'zod'
import { sayIssues } from '../../core/design/file.ts'
import { idSchema } from '../../core/design/ids.ts'
import { operationSchema } from '../../core/edit/all.ts'

/** What a client calls itself, a tab or an operation by. */
const nameSchema = z.string().regex(/^[A-Za-z0-9_-]{1,64}$/)

/** An operation that waits to be sent. `label`: what it does, in words; `tab`: the page that has it to send. */
export const waitingSchema = z.strictObject({
  design: idSchema,
  tab: nameSchema,
  label: z.string().max(1000),
  client: nameSchema,
  operationId: nameSchema,
  operation: operationSchema
})
export type Waiting = z.infer<typeof waitingSchema>

/** What can be sent no more, or was not understood: kept for a person to save, with why. */
const asideSchema = z.strictObject({ design: z.string(), what: z.unknown(), why: z.string() })
export type Aside = z.infer<typeof asideSchema>

interface Kept extends DBSchema {
  waiting: { key: number; value: unknown }
  aside: { key: number; value: unknown }
}

const NAME = 'patient-key'
/** Where earlier pages kept what waits: in the browser's small storage, a list for each design and tab. */
const EARLIER = 'patient-key pending '

/**
 * What waits to be sent, in the browser's own database (IndexedDB): each operation by itself, under a number that
 * tells the order in which they were made. Everything that is read is judged, since anything may have written it.
 */
export class WaitingRoom {
  private opened: Promise<IDBPDatabase<Kept>> | undefined

  private database(): Promise<IDBPDatabase<Kept>> {
    this.opened ??= openDB<Kept>(NAME, 1, {
      upgrade(database) {
        database.createObjectStore('waiting', { autoIncrement: true })
        database.createObjectStore('aside', { autoIncrement: true })
      },
      terminated: () => {
        this.opened = undefined
      }
    }).catch((error: unknown) => {
      this.opened = undefined
      throw error
    })
    return this.opened
  }

  /** Keeps an operation; on disk, as far as the browser says so, when it answers. @returns its number */
  async put(waiting: Waiting): Promise<number> {
    const database = await this.database()
    return database.add('waiting', plainOf(waiting))
  }

  async remove(number: number): Promise<void> {
    const database = await this.database()
    await database.delete('waiting', number)
  }

  /**
   * What pages that are gone have left, by its number in the order that it was made; it is the tab's from now on.
   * What is not understood is set aside.
   */
  async takeOver(tab: string, isAlive: (tab: string) => boolean): Promise<Map<number, Waiting>> {
    await this.takeEarlier()
    const database = await this.database()
    const work = database.transaction(['waiting', 'aside'], 'readwrite')
    const taken = new Map<number, Waiting>()
    for (let at = await work.objectStore('waiting').openCursor(); at; at = await at.continue()) {
      if (isAlive(tabIn(at.value))) continue
      const read = waitingSchema.safeParse(at.value)
      if (!read.success) {
        await work.objectStore('aside').add(asideOf(at.value, `It is no change. ${sayIssues(read.error)}`))
        await at.delete()
      } else {
        const own = { ...read.data, tab }
        await at.update(plainOf(own))
        taken.set(at.key, own)
      }
    }
    await work.done
    return taken
  }

  /** Takes in what pages of an earlier program kept; each list goes when all of it is here. */
  private async takeEarlier(): Promise<void> {
    const keys = earlierKeys()
    for (const key of keys) {
      const [design = ''] = key.slice(EARLIER.length).split(' ')
      const text = localStorage.getItem(key) ?? ''
      const database = await this.database()
      const work = database.transaction(['waiting', 'aside'], 'readwrite')
      for (const { waiting, aside } of readEarlier(design, text)) {
        if (waiting) await work.objectStore('waiting').add(plainOf(waiting))
        if (aside) await work.objectStore('aside').add(plainOf(aside))
      }
      await work.done
      localStorage.removeItem(key)
    }
  }

  async setAside(aside: Aside): Promise<void> {
    const database = await this.database()
    await database.add('aside', plainOf(aside))
  }

  async aside(): Promise<Aside[]> {
    const database = await this.database()
    return (await database.getAll('aside')).map((value) => {
      const read = asideSchema.safeParse(value)
      return read.success ? read.data : asideOf(value, 'It was not understood.')
    })
  }

  async clearAside(): Promise<void> {
    const database = await this.database()
    await database.clear('aside')
  }
}

/** A value as it is stored: without what a page's own machinery puts around values. */
const plainOf = (value: unknown): unknown => JSON.parse(JSON.stringify(value))

const tabIn = (value: unknown): string =>
  typeof value === 'object' && value !== null && 'tab' in value ? String(value.tab) : ''

function asideOf(value: unknown, why: string): Aside {
  const design = typeof value === 'object' && value !== null && 'design' in value ? String(value.design) : ''
  return { design, what: value, why }
}

function earlierKeys(): string[] {
  try {
    return Object.keys(localStorage).filter((key) => key.startsWith(EARLIER))
  } catch {
    return []
  }
}

const earlierSchema = z.object({ operationId: nameSchema, client: nameSchema, operation: operationSchema })

function readEarlier(design: string, text: string): { waiting?: Waiting; aside?: Aside }[] {
  let list: unknown
  try {
    list = JSON.parse(text)
  } catch {
    return [{ aside: { design, what: text, why: 'It cannot be read.' } }]
  }
  if (!Array.isArray(list)) return [{ aside: { design, what: list, why: 'It is no list of changes.' } }]
  return list.map((value: unknown) => {
    const read = earlierSchema.safeParse(value)
    const waiting = read.success && waitingSchema.safeParse({ design, tab: 'gone', label: '', ...read.data })
    if (waiting && waiting.success) return { waiting: waiting.data }
    return { aside: { design, what: value, why: 'It is no change that this program knows.' } }
  })
}
