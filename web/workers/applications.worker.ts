import { shapeOf } from '../../core/definitions/shape.ts'
import { shapeChanges, type ShapeChange } from '../../core/definitions/shape-changes.ts'
import { TYPESCRIPT } from '../../core/definitions/typescript-names.ts'
import type { Design } from '../../core/design/model.ts'

/** Works out what a change of a design changes for applications; the answer carries the number of the question. */
export interface ApplicationsQuestion {
  number: number
  before: Design
  after: Design
}
export interface ApplicationsAnswer {
  number: number
  changes: ShapeChange[]
}

self.onmessage = ({ data: { number, before, after } }: MessageEvent<ApplicationsQuestion>) => {
  const changes = shapeChanges(shapeOf(before, TYPESCRIPT), shapeOf(after, TYPESCRIPT))
  self.postMessage({ number, changes } satisfies ApplicationsAnswer)
}
