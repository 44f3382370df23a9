import type { Handler } from './handler.ts'
import { checkMemberName, needMember, withMember, withOther, withoutMember } from './members.ts'

/** How a design is drawn: its subjects, and the views of it that are kept. Neither changes what stands in a database. */

export const addSubject: Handler<'subject.add'> = (design, { subject, at }) => {
  checkMemberName(design, 'subject', subject)
  return {
    design: withMember(design, 'subject', subject, at),
    inverse: { kind: 'subject.remove', subject: subject.id },
    touched: []
  }
}

export const changeSubject: Handler<'subject.change'> = (design, { subject }) => {
  const { part: before } = needMember(design, 'subject', subject.id)
  checkMemberName(design, 'subject', subject)
  return {
    design: withOther(design, 'subject', subject),
    inverse: { kind: 'subject.change', subject: before },
    touched: []
  }
}

export const removeSubject: Handler<'subject.remove'> = (design, { subject: id }) => {
  const { at, part: subject } = needMember(design, 'subject', id)
  return {
    design: withoutMember(design, 'subject', id),
    inverse: { kind: 'subject.add', subject, at },
    touched: []
  }
}

export const addView: Handler<'view.add'> = (design, { view, at }) => {
  checkMemberName(design, 'view', view)
  return {
    design: withMember(design, 'view', view, at),
    inverse: { kind: 'view.remove', view: view.id },
    touched: []
  }
}

export const changeView: Handler<'view.change'> = (design, { view }) => {
  const { part: before } = needMember(design, 'view', view.id)
  checkMemberName(design, 'view', view)
  return {
    design: withOther(design, 'view', view),
    inverse: { kind: 'view.change', view: before },
    touched: []
  }
}

export const removeView: Handler<'view.remove'> = (design, { view: id }) => {
  const { at, part: view } = needMember(design, 'view', id)
  return { design: withoutMember(design, 'view', id), inverse: { kind: 'view.add', view, at }, touched: [] }
}
