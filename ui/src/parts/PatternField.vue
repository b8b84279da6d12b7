<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { useFieldName } from './fieldName'

/** A name made of columns and text: columns are picked, text is typed between them. */
const parts = defineModel<Of<'Part'>[]>({ required: true })
const props = defineProps<{ columns: string[] }>()
const { t } = useI18n()
const box = useTemplateRef<HTMLElement>('box')
const at = ref<number | null>(null) // the text that was typed into last

const name = useFieldName()
const label = (column: string, first?: number) =>
  first ? t('pattern.letters', { column: name(column), n: first }, first) : name(column)
type Piece = { text: string; column?: string; first?: number }
// Between any two columns, before the first and after the last there is a text, maybe empty.
const shown = computed(() => {
  const out: Piece[] = [{ text: '' }]
  for (const p of parts.value) {
    if (p.column) out.push({ text: '', column: p.column, first: p.first })
    else out[out.length - 1].text += p.text ?? ''
  }
  return out
})
const rest = computed(() => props.columns.filter((c) => !parts.value.some((p) => p.column === c)))

function set(list: Piece[]) {
  parts.value = list.flatMap((x) => [
    ...(x.column ? [{ column: x.column, ...(x.first ? { first: x.first } : {}) }] : []),
    ...(x.text ? [{ text: x.text }] : []),
  ])
}
function type(i: number, text: string) {
  set(shown.value.map((x, k) => (k === i ? { ...x, text } : x)))
}
function remove(i: number) {
  const list = shown.value.map((x) => ({ ...x }))
  list[i - 1].text += list[i].text
  list.splice(i, 1)
  set(list)
  void nextTick(() => fields()[i - 1]?.focus())
}
function add(column: string) {
  const list = shown.value.map((x) => ({ ...x }))
  const i = at.value === null ? list.length - 1 : Math.min(at.value, list.length - 1)
  const before = list[i].text
  const glue = !before && i > 0 ? ' ' : ''
  list[i].text = before + glue
  list.splice(i + 1, 0, { text: '', column })
  set(list)
  void nextTick(() => fields()[i + 1]?.focus())
}
// Of the column before the text that was typed into last: all of it, or its first letters.
const before = computed(() => {
  for (let i = Math.min(at.value ?? shown.value.length - 1, shown.value.length - 1); i > 0; i--)
    if (shown.value[i].column) return i
  return 0
})
function shorten(i: number) {
  set(shown.value.map((x, k) => (k === i ? { ...x, first: ((x.first ?? 0) + 1) % 4 } : x)))
}
const fields = () => [...(box.value?.querySelectorAll('input') ?? [])]
function key(e: KeyboardEvent, i: number) {
  const f = e.target as HTMLInputElement
  if (e.key === 'Backspace' && f.selectionStart === 0 && f.selectionEnd === 0 && i > 0) {
    e.preventDefault()
    remove(i)
  } else if (e.key === 'ArrowLeft' && f.selectionStart === 0) fields()[i - 1]?.focus()
  else if (e.key === 'ArrowRight' && f.selectionStart === f.value.length) fields()[i + 1]?.focus()
}
</script>

<template>
  <div>
    <div ref="box" class="chips" @click.self="fields().at(-1)?.focus()">
      <template v-for="(x, i) in shown" :key="i">
        <button
          v-if="x.column"
          type="button"
          class="plain chip"
          :title="t('pattern.remove', { column: name(x.column) })"
          @click="remove(i)"
        >
          {{ label(x.column, x.first) }}
        </button>
        <input
          :value="x.text"
          :aria-label="t('pattern.text')"
          :style="{ width: `${Math.max(x.text.length, 1) + 1.2}ch` }"
          @focus="at = i"
          @keydown="key($event, i)"
          @input="type(i, ($event.target as HTMLInputElement).value)"
        />
      </template>
    </div>
    <div class="more">
      <span>{{ t('pattern.add') }}</span>
      <button v-for="c in rest" :key="c" type="button" class="plain chip soft" @click="add(c)">{{ label(c) }}</button>
      <span>{{ t('pattern.or-type') }}</span>
      <button v-if="before" type="button" class="link" data-act="first-letters" @click="shorten(before)">
        {{ t('pattern.shorten', { column: name(shown[before].column!) }) }}
      </button>
    </div>
  </div>
</template>

<style scoped>
.chips {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  row-gap: 5px;
  border: 1.5px solid var(--leather);
  border-radius: 6px;
  padding: 6px 8px;
  background: var(--sheet);
  cursor: text;
}
.chips:focus-within {
  box-shadow: 0 0 0 2px var(--leather-soft);
}
.chips input {
  border: 0;
  outline: 0;
  background: none;
  color: var(--ink);
  font: inherit;
  padding: 0 1px;
  min-width: 1.6ch;
  white-space: pre;
}
.chips input:focus {
  background: var(--paper);
  border-radius: 3px;
}
.more {
  margin-top: 9px;
  display: flex;
  flex-wrap: wrap;
  gap: 5px;
  font-size: 13.5px;
  color: var(--ink-2);
  align-items: center;
}
.more .chip:hover {
  background: var(--tide-soft);
  color: var(--tide);
}
</style>
