<script setup lang="ts">
import { useRouter } from 'vue-router'
import { useDesign } from '../stores/design.ts'
import { useShortcuts } from './shortcuts.ts'

const store = useDesign()
const router = useRouter()

async function keepAsNew(): Promise<void> {
  try {
    const id = await store.keepAsNew()
    await router.push({ name: 'bench', params: { design: id } })
  } catch (error) {
    store.say(error instanceof Error ? error.message : String(error))
  }
}

/** The first two offers can be taken from the keyboard, wherever it is. */
const KEYS = ['Alt Enter', 'Alt Shift Enter']
useShortcuts((event) => {
  if (event.key === 'Escape' && store.notice) {
    store.notice = undefined
    return true
  }
  if (event.key !== 'Enter' || !event.altKey || event.ctrlKey || event.metaKey) return false
  return accept(event.shiftKey ? 1 : 0)
})

function accept(at: number): boolean {
  const offer = store.notice?.offers[at]
  if (offer) store.submit(offer.operation, offer.label.charAt(0).toLowerCase() + offer.label.slice(1))
  return offer !== undefined
}
</script>

<template>
  <div class="notices">
    <div v-if="store.failure && store.design" class="notice-bar gone" role="alert">
      <span>{{ store.failure }} What you change here is not kept any more.</span>
      <button type="button" class="button" @click="keepAsNew">Keep what you see as a new design</button>
      <RouterLink to="/">Back to the shelf</RouterLink>
    </div>
    <div v-if="!store.online && !store.failure" class="notice-bar gone" role="status">
      <template v-if="store.unkept === 0"
        >The server does not answer. You can go on: what you change is kept here{{
          store.pending.length > 0 ? ` (${store.pending.length} so far)` : ''
        }}
        and sent when it is back.</template
      ><template v-else
        >The server does not answer. What you change is sent when it is back, if this page is still open
        then.</template
      >
    </div>
    <div v-if="store.unkept > 0" class="notice-bar gone" role="alert">
      {{ store.unkept === 1 ? 'One change' : `${store.unkept} changes` }} could not be kept in this browser
      ({{ store.whyUnkept }}): leave this page open until the server has
      {{ store.unkept === 1 ? 'it' : 'them' }}.
    </div>
    <div v-if="store.trouble" class="notice-bar gone" role="alert">
      {{ store.trouble }} ({{ store.pending.length }}
      {{ store.pending.length === 1 ? 'change waits' : 'changes wait' }} here.)
    </div>
    <div v-if="store.notice" class="notice-bar" role="alert">
      <span>{{ store.notice.message }}</span>
      <button
        v-for="(offer, at) in store.notice.offers"
        :key="offer.label"
        type="button"
        class="button"
        @click="accept(at)">
        {{ offer.label }} <kbd v-if="KEYS[at]">{{ KEYS[at] }}</kbd>
      </button>
      <button type="button" class="link" @click="store.notice = undefined">
        {{ store.notice.offers.length > 0 ? 'Leave it as it is' : 'Understood' }} <kbd>Esc</kbd>
      </button>
    </div>
  </div>
</template>

<style scoped>
/* Over the foot of the screen, so that nothing moves under the pointer when it comes. */
.notices {
  position: fixed;
  inset: auto 0 0;
  z-index: 40;
}
</style>
