import { z } from 'zod'
import { readJson } from '../../core/design/json.ts'
import { operationSchema } from '../../core/edit/all.ts'
import type { Operation } from '../../core/edit/operation.ts'
import { remember, remembered } from '../parts/remembered.ts'

/** One step that can be undone or done again, by the name that it goes by. */
export interface Step {
  label: string
  operation: Operation
}
export interface History {
  past: Step[]
  future: Step[]
}

/** How many steps of a design outlive the page. */
const MOST = 200
const stepsSchema = z.array(z.strictObject({ label: z.string(), operation: operationSchema }))
const historySchema = z.strictObject({ past: stepsSchema, future: stepsSchema })

/**
 * What can be undone in each design of this tab: while one goes from design to design, and when the page
 * is loaded anew.
 */
export class Histories {
  private readonly here = new Map<string, History>()

  keep(design: string, history: History): void {
    this.here.set(design, history)
  }

  /**
   * What was kept of the design, if anything; what an older program or another hand left in the storage
   * and cannot be read is nothing.
   */
  of(design: string): History | undefined {
    const here = this.here.get(design)
    if (here) return here
    const read = readJson(remembered('sessionStorage', place(design)) ?? 'null')
    return read.ok ? historySchema.safeParse(read.value).data : undefined
  }

  /**
   * Hands what there is to the browser's storage, since the page goes; one that stores nothing forgets it.
   */
  store(): void {
    for (const [design, { past, future }] of this.here) {
      const last = { past: past.slice(-MOST), future: future.slice(-MOST) }
      remember('sessionStorage', place(design), JSON.stringify(last))
    }
  }
}

const place = (design: string): string => `patient-key history ${design}`
