import { fold } from '../design/directory.ts'
import type { Design, Subject, View } from '../design/model.ts'
import { shorten } from '../design/type.ts'
import { checkName, checkNewIds, insertedAt, withoutAt, type Handler } from './handler.ts'
import { Refused } from './refusal.ts'

/** How a design is drawn: its subjects, and the views of it that are kept. Neither changes what stands in a database. */

/** A list of a design that is left out of it where nothing is in it, and what one of its members is called. */
interface Named<T> {
  what: string
  of(design: Design): readonly T[]
  put(design: Design, list: T[]): Design
}

const SUBJECTS: Named<Subject> = {
  what: 'subject',
  of: ({ subjects = [] }) => subjects,
  put: ({ subjects: _, ...bare }, list) => (list.length > 0 ? { ...bare, subjects: list } : bare)
}
const VIEWS: Named<View> = {
  what: 'view',
  of: ({ views = [] }) => views,
  put: ({ views: _, ...bare }, list) => (list.length > 0 ? { ...bare, views: list } : bare)
}

interface Member {
  id: string
  name: string
}

function checkFree<T extends Member>(design: Design, { what, of }: Named<T>, { id, name }: T): void {
  checkName(name, {})
  const isTaken = of(design).some((each) => each.id !== id && fold(each.name) === fold(name))
  if (isTaken) throw new Refused('name-taken', `There is already a ${what} called ${shorten(name)}.`)
}

function need<T extends Member>(design: Design, { what, of }: Named<T>, id: string): { at: number; one: T } {
  const at = of(design).findIndex((each) => each.id === id)
  const one = of(design)[at]
  if (!one) throw new Refused('missing', `That ${what} is no longer in the design.`)
  return { at, one }
}

function added<T extends Member>(design: Design, list: Named<T>, one: T, at: number | undefined): Design {
  checkNewIds(design, [one.id])
  checkFree(design, list, one)
  return list.put(design, insertedAt([...list.of(design)], one, at))
}

function changed<T extends Member>(design: Design, list: Named<T>, one: T): { design: Design; before: T } {
  const { at, one: before } = need(design, list, one.id)
  checkFree(design, list, one)
  return { design: list.put(design, list.of(design).with(at, one)), before }
}

function removed<T extends Member>(
  design: Design,
  list: Named<T>,
  id: string
): { design: Design; before: T; at: number } {
  const { at, one: before } = need(design, list, id)
  return { design: list.put(design, withoutAt(list.of(design), at)), before, at }
}

export const addSubject: Handler<'subject.add'> = (design, { subject, at }) => ({
  design: added(design, SUBJECTS, subject, at),
  inverse: { kind: 'subject.remove', subject: subject.id },
  touched: []
})

export const changeSubject: Handler<'subject.change'> = (was, { subject }) => {
  const { design, before } = changed(was, SUBJECTS, subject)
  return { design, inverse: { kind: 'subject.change', subject: before }, touched: [] }
}

export const removeSubject: Handler<'subject.remove'> = (was, { subject }) => {
  const { design, before, at } = removed(was, SUBJECTS, subject)
  return { design, inverse: { kind: 'subject.add', subject: before, at }, touched: [] }
}

export const addView: Handler<'view.add'> = (design, { view, at }) => ({
  design: added(design, VIEWS, view, at),
  inverse: { kind: 'view.remove', view: view.id },
  touched: []
})

export const changeView: Handler<'view.change'> = (was, { view }) => {
  const { design, before } = changed(was, VIEWS, view)
  return { design, inverse: { kind: 'view.change', view: before }, touched: [] }
}

export const removeView: Handler<'view.remove'> = (was, { view }) => {
  const { design, before, at } = removed(was, VIEWS, view)
  return { design, inverse: { kind: 'view.add', view: before, at }, touched: [] }
}
