<script setup lang="ts">
import { Checkbox } from 'ant-design-vue'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, ref, useTemplateRef } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { me } from '@/me'
import { valueOf } from '@/parts/columnValues'
import { useFieldName } from '@/parts/fieldName'
import { ago, exact } from '@/when'
import { useCells } from './cells'
import DoubtedAddress from './DoubtedAddress.vue'
import RosterNotes from './RosterNotes.vue'

/** The roster as a grid: sort, mark cells, type, fill down, paste a block. */
const props = defineProps<{ rows: Of<'RosterRow'>[]; mayChange: boolean }>()
const chosen = defineModel<Set<string>>('chosen', { required: true })
const emit = defineEmits<{ edit: [Of<'RosterEdit'>[]]; confirm: [row: string]; undo: [] }>()
const { t } = useI18n()
const fieldName = useFieldName()
const scroll = useTemplateRef<HTMLElement>('scroll')

const fields = computed(() => {
  const extras = [...new Set(props.rows.flatMap((r) => Object.keys(r.extra)))]
  const base = ['family', 'given', 'preferred', 'address', 'number', 'period', 'level', 'team']
  return [
    ...base.filter((f) => f !== 'preferred' || props.rows.some((r) => r.preferred)),
    ...extras.map((x) => `extra:${x}`),
  ]
})

// Names are in the order of the school's language until a column is chosen.
const sort = ref<{ field: string; down: boolean } | null>(null)
const collator = computed(() => new Intl.Collator(me.value?.language, { numeric: true }))
const sorted = computed(() => {
  const s = sort.value
  if (!s) return props.rows
  const there = props.rows.filter((r) => !r.left)
  there.sort((a, b) => collator.value.compare(valueOf(a, s.field), valueOf(b, s.field)) * (s.down ? -1 : 1))
  return [...there, ...props.rows.filter((r) => r.left)]
})
function sortBy(field: string) {
  const s = sort.value
  sort.value = s?.field !== field ? { field, down: false } : s.down ? null : { field, down: true }
}
const order = (f: string) => (sort.value?.field !== f ? 'none' : sort.value.down ? 'descending' : 'ascending')

const rowHeight = 28
const virtual = useVirtualizer(
  computed(() => ({
    count: sorted.value.length,
    getScrollElement: () => scroll.value,
    estimateSize: () => rowHeight,
    overscan: sorted.value.length > 200 ? 12 : 200,
  })),
)
const items = computed(() => virtual.value.getVirtualItems())
const above = computed(() => items.value[0]?.start ?? 0)
const below = computed(() => virtual.value.getTotalSize() - (items.value.at(-1)?.end ?? 0))

let last = ''
function choose(row: string, range = false) {
  const next = new Set(chosen.value)
  const on = !next.has(row)
  let rows = [row]
  if (range && last) {
    const [a, b] = [last, row].map((x) => sorted.value.findIndex((r) => r.row === x)).sort((x, y) => x - y)
    if (a >= 0) rows = sorted.value.slice(a, b + 1).map((r) => r.row)
  }
  for (const x of rows)
    if (on) next.add(x)
    else next.delete(x)
  last = row
  chosen.value = next
}
const everybody = computed(() => sorted.value.length > 0 && sorted.value.every((r) => chosen.value.has(r.row)))
function chooseAll() {
  chosen.value = everybody.value ? new Set() : new Set(sorted.value.filter((r) => !r.left).map((r) => r.row))
}
const { at, editing, value, marked, go, begin, end, copy, paste, keys } = useCells({
  sorted,
  fields,
  mayChange: () => props.mayChange,
  scroll,
  virtual,
  edit: (edits) => emit('edit', edits),
  undo: () => emit('undo'),
  choose,
})
const hints = computed(() => props.rows.some((r) => r.also.length || r.sitsOut.length || r.remarks.length || r.relink))
</script>

<template>
  <div ref="scroll" class="scroll" data-sideways @copy="copy" @paste="paste">
    <table role="grid" :aria-label="t('grid.label')" :aria-rowcount="rows.length + 1" @keydown="keys">
      <thead>
        <tr>
          <th v-if="mayChange" class="pick">
            <Checkbox
              :checked="everybody"
              :indeterminate="chosen.size > 0 && !everybody"
              :aria-label="t('grid.select-all')"
              @change="chooseAll"
            />
          </th>
          <th v-for="f in fields" :key="f" :aria-sort="order(f)" :data-column="f">
            <button class="plain sort" @click="sortBy(f)">
              {{ fieldName(f)
              }}<span aria-hidden="true">{{
                order(f) === 'ascending' ? ' ↑' : order(f) === 'descending' ? ' ↓' : ''
              }}</span>
            </button>
          </th>
          <th v-if="hints">{{ t('grid.notes') }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-if="above > 0" aria-hidden="true">
          <td :style="{ height: `${above}px` }" />
        </tr>
        <tr
          v-for="i in items"
          :key="sorted[i.index].row"
          :aria-rowindex="i.index + 2"
          :data-student="sorted[i.index].name"
          :class="{ left: sorted[i.index].left, picked: chosen.has(sorted[i.index].row) }"
        >
          <td v-if="mayChange" class="pick">
            <Checkbox
              :checked="chosen.has(sorted[i.index].row)"
              :aria-label="t('grid.select-row', { name: sorted[i.index].name })"
              @click.stop.prevent="(e: MouseEvent) => choose(sorted[i.index].row, e.shiftKey)"
            />
          </td>
          <td
            v-for="(f, c) in fields"
            :key="f"
            role="gridcell"
            :data-at="`${i.index}:${c}`"
            :data-field="f"
            :tabindex="at.r === i.index && at.c === c ? 0 : -1"
            :aria-selected="marked(i.index, c)"
            :class="{
              marked: marked(i.index, c),
              here: at.r === i.index && at.c === c,
              doubt: f === 'address' && sorted[i.index].problem,
              strong: f === 'family',
            }"
            @mousedown="
              (e) => {
                if (editing && at.r === i.index && at.c === c) return
                end(true)
                void go(i.index, c, e.shiftKey)
              }
            "
            @dblclick="begin()"
          >
            <input
              v-if="editing && at.r === i.index && at.c === c"
              v-model="value"
              class="edit"
              :aria-label="fieldName(f)"
              @blur="end(true)"
            />
            <DoubtedAddress
              v-else-if="f === 'address' && sorted[i.index].problem"
              :row="sorted[i.index]"
              :may-change="mayChange"
              @edit="(e) => emit('edit', e)"
              @confirm="emit('confirm', sorted[i.index].row)"
            />
            <template v-else>
              <bdi>{{ valueOf(sorted[i.index], f) }}</bdi>
              <span v-if="c === 0 && sorted[i.index].left" class="faint" :title="exact(sorted[i.index].left)">
                {{ t('grid.left-when', { when: ago(sorted[i.index].left, t) }) }}</span
              >
            </template>
          </td>
          <td v-if="hints" class="hint">
            <RosterNotes :row="sorted[i.index]" :may-change="mayChange" @edit="(e) => emit('edit', e)" />
          </td>
        </tr>
        <tr v-if="below > 0" aria-hidden="true">
          <td :style="{ height: `${below}px` }" />
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.scroll {
  overflow: auto;
  flex: 1;
  min-height: 0;
}
table {
  border-collapse: separate;
  border-spacing: 0;
  min-width: 100%;
  font-size: 14px;
}
th {
  position: sticky;
  top: 0;
  z-index: 2;
  background: var(--paper);
  text-align: left;
  font-weight: 600;
  font-size: 12.5px;
  padding: 0 10px 6px 7px;
  border-bottom: 1.5px solid var(--thread);
  white-space: nowrap;
}
.sort {
  color: var(--ink-2);
}
.sort:hover {
  color: var(--ink);
}
td {
  height: 28px;
  padding: 0 10px 0 7px;
  border-bottom: 1px solid var(--thread-2);
  white-space: nowrap;
  cursor: cell;
  max-width: 190px;
  overflow: hidden;
  text-overflow: ellipsis;
}
/* What there is to know is read in full, if need be by scrolling. */
td.hint {
  max-width: none;
  cursor: default;
}
td[data-field='address'] {
  max-width: 330px;
}
td[aria-hidden] {
  border: 0;
  padding: 0;
}
td.pick,
th.pick {
  width: 28px;
  min-width: 28px;
  padding: 0 4px 0 0;
  cursor: default;
}
/* Who it is stays in sight while the rest is scrolled sideways. */
td.pick,
th.pick {
  position: sticky;
  left: 0;
  z-index: 1;
  background: var(--paper);
}
td[data-field='family'],
th[data-column='family'] {
  position: sticky;
  left: 28px;
  z-index: 1;
  background: var(--paper);
}
th.pick,
th[data-column='family'] {
  z-index: 3;
}
td.marked {
  background: var(--leather-soft);
}
td.here {
  box-shadow: inset 0 0 0 1.5px var(--leather);
  outline: none;
}
td.doubt {
  background: var(--brass-soft);
}
td.doubt.here {
  background: var(--brass-soft);
}
tr.picked td:not(.marked, .doubt) {
  background: var(--tide-soft);
}
tr.left td {
  color: var(--ink-3);
  cursor: default;
}
.edit {
  width: 100%;
  min-width: 90px;
  font: inherit;
  border: 0;
  outline: none;
  padding: 0;
  background: var(--sheet);
  color: var(--ink);
}
</style>
