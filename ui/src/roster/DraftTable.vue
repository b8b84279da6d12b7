<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { rowsOf } from './draftRows'

/** The table of a list as it came, corrected where it is wrong. */
const props = defineProps<{ draft: Of<'Draft'> }>()
const emit = defineEmits<{ change: [Of<'DraftChange'>[]] }>()
const { t } = useI18n()
const table = useTemplateRef<HTMLElement>('table')

const roles = [
  'given',
  'family',
  'full',
  'preferred',
  'address',
  'number',
  'class',
  'period',
  'level',
  'team',
  'extra',
  'none',
] as const
const fields = computed(() =>
  props.draft.columns
    .map((_, i) => i)
    .filter((i) => props.draft.columns[i].role !== 'none' || props.draft.columns[i].heading),
)
const rows = computed(() => rowsOf(props.draft))
const at = computed(() => {
  const m = new Map<string, string>()
  for (const f of props.draft.findings) {
    const k = `${f.row}:${f.field}`
    if (f.severity !== 'note' && m.get(k) !== 'error') m.set(k, f.severity)
  }
  return m
})
// Long lists are shown a window at a time: the page keeps its pace.
const from = ref(0)
const tall = computed(() => rows.value.length > 400)
const windowed = computed(() => (tall.value ? rows.value.slice(from.value, from.value + 200) : rows.value))
const byRow = computed(() => {
  const m = new Map<number, Of<'Finding'>[]>()
  for (const f of props.draft.findings) m.set(f.row, [...(m.get(f.row) ?? []), f])
  return m
})
const editing = ref<{ row: number; field: number } | null>(null)
const value = ref('')
let began = ''
const selected = ref(0)
function edit(row: number, field: number, cell: string) {
  editing.value = { row, field }
  value.value = began = cell
  void nextTick(() => table.value?.querySelector<HTMLInputElement>('input.edit')?.select())
}
function leave(save: boolean) {
  const e = editing.value
  editing.value = null
  if (!e || !save) return
  if (began !== value.value) emit('change', [{ cell: { row: e.row, field: e.field, value: value.value }, was: began }])
}
/** Shows a row, and begins to edit its cell where there is one. */
async function show(row: number, field: number) {
  const place = rows.value.findIndex((r) => r.line === row)
  if (tall.value && place >= 0) from.value = Math.floor(place / 200) * 200
  await nextTick()
  selected.value = row
  table.value?.querySelector(`[data-row="${row}"]`)?.scrollIntoView({ block: 'center' })
  if (field >= 0 && place >= 0) edit(row, field, rows.value[place].cells[field] ?? '')
}
defineExpose({ show })
</script>

<template>
  <div ref="table" class="scroll">
    <table :aria-label="t('draft.table')">
      <thead>
        <tr>
          <th class="no">
            <span class="visually-hidden">{{ t('draft.row') }}</span>
          </th>
          <th v-for="i in fields" :key="i">
            <select
              class="role"
              :class="{
                unsure: draft.columns[i].confidence < 0.75 && draft.columns[i].role !== 'extra',
                kept: draft.columns[i].role === 'extra' || draft.columns[i].role === 'none',
              }"
              :value="draft.columns[i].role"
              :aria-label="t('draft.what-is', { heading: draft.columns[i].heading || i + 1 })"
              @change="
                emit('change', [
                  {
                    role: { field: i, role: ($event.target as HTMLSelectElement).value as Of<'Role'> },
                    was: draft.columns[i].role,
                  },
                ])
              "
            >
              <option v-for="r in roles" :key="r" :value="r">
                {{ t(`role-of.${r}`)
                }}{{
                  r === draft.columns[i].role && draft.columns[i].confidence < 0.75 && r !== 'extra' && r !== 'none'
                    ? '?'
                    : ''
                }}
              </option>
            </select>
            <span class="heading" :title="draft.columns[i].hidden ? t('draft.hidden-column') : undefined"
              >{{ draft.columns[i].heading || '\u00a0'
              }}<template v-if="draft.columns[i].hidden"> ({{ t('draft.hidden') }})</template></span
            >
            <span v-if="draft.columns[i].note === 'school-year'" class="heading note">{{
              t('draft.school-year')
            }}</span>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="r in windowed" :key="r.line" :data-row="r.line" :class="[r.state, { cur: selected === r.line }]">
          <td class="no">{{ r.line }}</td>
          <td v-if="r.state === 'blank' || r.state === 'hidden'" :colspan="fields.length">
            {{ t(`draft.row-${r.state}`) }}
            <button
              v-if="r.state === 'hidden'"
              class="link"
              @click="emit('change', [{ leftOut: { row: r.line, out: false } }])"
            >
              {{ t('list.take-in') }}
            </button>
          </td>
          <template v-else>
            <td
              v-for="i in fields"
              :key="i"
              :class="at.get(`${r.line}:${i}`)"
              @click="editing?.row === r.line && editing.field === i ? null : edit(r.line, i, r.cells[i] ?? '')"
            >
              <input
                v-if="editing?.row === r.line && editing.field === i"
                v-model="value"
                class="edit"
                :aria-label="draft.columns[i].heading"
                @blur="leave(true)"
                @keydown.enter="($event.target as HTMLInputElement).blur()"
                @keydown.esc.stop="leave(false)"
              />
              <button
                v-else
                class="plain cell"
                :title="byRow.get(r.line)?.find((f) => f.field === i)?.message"
                @click.stop="edit(r.line, i, r.cells[i] ?? '')"
              >
                <bdi>{{ r.cells[i] || '\u00a0' }}</bdi>
              </button>
            </td>
          </template>
        </tr>
      </tbody>
    </table>
    <p v-if="tall" class="quiet more">
      <button v-if="from > 0" class="link" @click="from -= 200">{{ t('draft.earlier-rows') }}</button>
      {{ ' ' }}
      <button v-if="from + 200 < rows.length" class="link" @click="from += 200">{{ t('draft.later-rows') }}</button>
    </p>
    <p v-if="draft.shown < draft.counts.rows" class="quiet more">
      {{ t('draft.more', { n: draft.counts.rows - draft.shown }) }}
    </p>
  </div>
</template>

<style scoped>
.scroll {
  flex: 1;
  min-height: 0;
  overflow: auto;
}
table {
  border-collapse: separate;
  border-spacing: 0;
  width: 100%;
  font-size: 14px;
}
th {
  position: sticky;
  top: 0;
  z-index: 1;
  background: var(--paper);
  text-align: left;
  padding: 0 8px 7px 0;
  border-bottom: 1.5px solid var(--thread);
  font-weight: 400;
  font-size: 12.5px;
  color: var(--ink-3);
  vertical-align: bottom;
}
.role {
  display: block;
  appearance: none;
  border: 0;
  font: inherit;
  font-weight: 650;
  font-size: 13.5px;
  color: var(--tide);
  background: var(--tide-soft);
  border-radius: 4px;
  padding: 1px 7px;
  margin-bottom: 3px;
  cursor: pointer;
  max-width: 150px;
}
.role.kept {
  background: var(--rail);
  color: var(--ink-2);
}
.role.unsure {
  background: var(--brass-soft);
  color: var(--brass-text);
}
.role option {
  background: var(--sheet);
  color: var(--ink);
}
.heading {
  display: block;
  padding-left: 7px;
}
td {
  height: 26px;
  border-bottom: 1px solid var(--thread-2);
  padding: 0 8px 0 0;
  white-space: nowrap;
  cursor: text;
  max-width: 320px;
}
td.no {
  color: var(--ink-3);
  width: 34px;
  font-size: 12.5px;
  cursor: default;
}
td .cell {
  width: 100%;
  line-height: 24px;
  cursor: text;
  overflow: hidden;
  text-overflow: ellipsis;
  padding-left: 7px;
}
td.error {
  background: var(--brick-soft);
  box-shadow: inset 0 -2px 0 var(--brick);
}
td.warning {
  background: var(--brass-soft);
  box-shadow: inset 0 -2px 0 var(--brass);
}
tr.cur td:not(.error, .warning) {
  background: var(--leather-soft);
}
tr.blank td,
tr.hidden td {
  color: var(--ink-3);
  font-style: italic;
}
tr.out td:not(.error) {
  color: var(--ink-3);
}
.edit {
  width: 100%;
  min-width: 120px;
  font: inherit;
  border: 1.5px solid var(--leather);
  border-radius: 4px;
  padding: 0 5px;
  height: 24px;
  background: var(--sheet);
  color: var(--ink);
}
.more {
  padding: 10px 0;
}
</style>
