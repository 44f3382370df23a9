import { ref } from 'vue'

/** What went wrong in the page itself, in words; nothing while nothing did. */
export const trouble = ref('')

/** Says what went wrong, wherever one is. */
export function tellTrouble(error: unknown): void {
  const said = error instanceof Error ? error.message : String(error)
  trouble.value = said.endsWith('.') ? said : `${said}.`
}
