<script setup lang="ts">
/** A program to be read: highlighted, of any length, nothing in it can be changed. */
import { cpp } from '@codemirror/lang-cpp';
import { HighlightStyle, StreamLanguage, syntaxHighlighting } from '@codemirror/language';
import { python } from '@codemirror/legacy-modes/mode/python';
import { EditorState } from '@codemirror/state';
import { EditorView, lineNumbers } from '@codemirror/view';
import { tags } from '@lezer/highlight';
import { onBeforeUnmount, onMounted, useTemplateRef, watch } from 'vue';

const { text, label, language } = defineProps<{ text: string; label: string; language: 'c' | 'python' }>();
const place = useTemplateRef('place');

const colours = HighlightStyle.define([
  { tag: [tags.comment, tags.meta], color: 'var(--ink-2)', fontStyle: 'italic' },
  { tag: [tags.keyword, tags.modifier, tags.controlKeyword], color: 'var(--pine)', fontWeight: '600' },
  { tag: [tags.typeName, tags.standard(tags.typeName)], color: 'var(--pine)' },
  { tag: [tags.string, tags.character, tags.processingInstruction], color: 'var(--good)' },
  { tag: tags.number, color: 'var(--cork)' },
]);
const look = EditorView.theme({
  '&': { height: '100%', fontSize: '0.8rem', color: 'var(--ink)', background: 'var(--paper)' },
  '.cm-scroller': { fontFamily: 'var(--mono)', lineHeight: '1.45' },
  '.cm-gutters': { background: 'var(--paper)', color: 'var(--ink-2)', border: '0' },
  '&.cm-focused': { outline: '2px solid var(--pine)', outlineOffset: '-2px' },
});
const stateOf = (doc: string): EditorState =>
  EditorState.create({
    doc,
    extensions: [
      lineNumbers(),
      EditorView.lineWrapping,
      language === 'python' ? StreamLanguage.define(python) : cpp(),
      syntaxHighlighting(colours),
      look,
      EditorState.readOnly.of(true),
      EditorView.contentAttributes.of({ 'aria-label': label, 'aria-readonly': 'true' }),
    ],
  });
let view: EditorView | null = null;
onMounted(() => (view = new EditorView({ state: stateOf(text), parent: place.value! })));
onBeforeUnmount(() => view?.destroy());
watch(
  () => [text, label, language],
  () => view?.setState(stateOf(text)),
);
</script>

<template>
  <div ref="place" class="source"></div>
</template>

<style scoped>
.source {
  min-height: 12rem;
  overflow: hidden;
  border: 1px solid var(--lines);
  border-radius: 4px;
}
</style>
