<script setup lang="ts">
import { PostgreSQL, sql, SQLite } from '@codemirror/lang-sql'
import { HighlightStyle, syntaxHighlighting } from '@codemirror/language'
import { EditorState } from '@codemirror/state'
import { EditorView } from '@codemirror/view'
import { tags } from '@lezer/highlight'
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'

/** Text that is only read: SQL in a dialect's colours, or plain. Only what is in view is painted, so a thousand tables are no burden. */
const props = defineProps<{ text: string; dialect?: 'postgresql' | 'sqlite' | undefined; label: string }>()
const place = ref<HTMLElement>()
let editor: EditorView | undefined

const colours = HighlightStyle.define([
  { tag: tags.keyword, color: 'var(--ink)', fontWeight: '700' },
  { tag: [tags.typeName, tags.standard(tags.name)], color: 'var(--act)' },
  { tag: tags.string, color: 'var(--emptied)' },
  { tag: tags.number, color: 'var(--refused)' },
  { tag: tags.comment, color: 'var(--quiet)', fontStyle: 'italic' }
])
const look = EditorView.theme({
  '&': { height: '100%', background: 'transparent', color: 'var(--ink)', fontSize: '12.5px' },
  '&.cm-focused': { outline: 'none' },
  '.cm-scroller': { fontFamily: 'var(--mono)', lineHeight: '1.5', letterSpacing: '-0.01em' },
  '.cm-content': { padding: '8px 0', caretColor: 'transparent' },
  '.cm-line': { padding: '0 14px' }
})

function state(): EditorState {
  const language = props.dialect ? [sql({ dialect: props.dialect === 'sqlite' ? SQLite : PostgreSQL }), syntaxHighlighting(colours)] : []
  return EditorState.create({ doc: props.text, extensions: [look, ...language, EditorState.readOnly.of(true), EditorView.contentAttributes.of({ 'aria-label': props.label, tabindex: '0' })] })
}
onMounted(() => { editor = new EditorView({ state: state(), parent: place.value as HTMLElement }) })
watch(() => [props.text, props.dialect], () => editor?.setState(state()))
onBeforeUnmount(() => editor?.destroy())
</script>

<template>
  <div ref="place" class="text" />
</template>

<style scoped>
.text { min-height: 0; overflow: hidden; height: 100%; }
</style>
