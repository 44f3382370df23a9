import { onBeforeUnmount, onMounted } from 'vue'

/**
 * Calls the handler for each key pressed anywhere in the page while the component is there; a key that it
 * takes goes no further.
 */
export function useShortcuts(handle: (event: KeyboardEvent) => boolean): void {
  const listener = (event: KeyboardEvent): void => {
    if (!event.defaultPrevented && handle(event)) event.preventDefault()
  }
  onMounted(() => window.addEventListener('keydown', listener))
  onBeforeUnmount(() => window.removeEventListener('keydown', listener))
}

/**
 * True where the key goes into a field that text is typed into; with `changed`, only where that field
 * holds something that has not been taken over yet, so that Ctrl Z is the field's own.
 */
export function isTyping(event: Event, which?: 'changed'): boolean {
  const target = event.target as HTMLElement
  const field =
    target instanceof HTMLTextAreaElement ||
    (target instanceof HTMLInputElement && !['radio', 'checkbox', 'button'].includes(target.type))
  if (!field) return target.isContentEditable
  return which === 'changed' ? target.value !== (target.dataset.taken ?? target.defaultValue) : true
}

/** True in a field that waits for a new name, and has nothing in it yet: what finds a table is no name. */
export const isUnbegun = ({ target }: Event): boolean =>
  target instanceof HTMLInputElement && target.dataset.new !== undefined && target.value === ''
