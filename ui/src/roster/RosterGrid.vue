<script setup lang="ts">
import { Checkbox } from 'ant-design-vue'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { me } from '@/me'
import { valueOf } from '@/parts/columnValues'
import { useFieldName } from '@/parts/fieldName'
import { useReasons } from '@/reasons'
import { ago, exact } from '@/when'

/** The roster as a grid: sort, mark cells, type, fill down, paste a block. */
const props = defineProps<{ rows: Of<'RosterRow'>[]; mayChange: boolean }>()
const chosen = defineModel<Set<string>>('chosen', { required: true })
const emit = defineEmits<{ edit: [Of<'RosterEdit'>[]]; confirm: [row: string]; undo: [] }>()
const { t } = useI18n()
const { reasonText } = useReasons()
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

// Names stand in the order of the school's language until a column is chosen.
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

// The active cell, and the corner of the marked block that stays put.
const at = ref({ r: 0, c: 0 })
const anchor = ref({ r: 0, c: 0 })
const editing = ref(false)
const value = ref('')
let began = '' // what stood in the cell when it was opened: somebody else's change since is told
const block = computed(() => ({
  r0: Math.min(at.value.r, anchor.value.r),
  r1: Math.max(at.value.r, anchor.value.r),
  c0: Math.min(at.value.c, anchor.value.c),
  c1: Math.max(at.value.c, anchor.value.c),
}))
const marked = (r: number, c: number) =>
  r >= block.value.r0 && r <= block.value.r1 && c >= block.value.c0 && c <= block.value.c1
const several = computed(() => block.value.r0 !== block.value.r1 || block.value.c0 !== block.value.c1)
watch(sorted, (s) => {
  if (at.value.r >= s.length) at.value = anchor.value = { r: Math.max(0, s.length - 1), c: at.value.c }
})
async function go(r: number, c: number, keep = false) {
  at.value = {
    r: Math.min(Math.max(r, 0), sorted.value.length - 1),
    c: Math.min(Math.max(c, 0), fields.value.length - 1),
  }
  if (!keep) anchor.value = at.value
  virtual.value.scrollToIndex(at.value.r)
  await nextTick()
  scroll.value?.querySelector<HTMLElement>(`[data-at="${at.value.r}:${at.value.c}"]`)?.focus({ preventScroll: true })
}
const mayEdit = (r: Of<'RosterRow'>) => props.mayChange && !r.left
async function begin(text?: string) {
  const r = sorted.value[at.value.r]
  if (!r || !mayEdit(r)) return
  began = valueOf(r, fields.value[at.value.c])
  value.value = text ?? began
  editing.value = true
  await nextTick()
  const input = scroll.value?.querySelector<HTMLInputElement>('input.edit')
  input?.focus()
  if (text === undefined) input?.select()
}
function end(save: boolean) {
  if (!editing.value) return
  editing.value = false
  const r = sorted.value[at.value.r]
  const f = fields.value[at.value.c]
  if (save && value.value !== began) emit('edit', [{ row: r.row, field: f, value: value.value, was: began }])
}
/** Values for cells of the grid; rows that may not change are passed over. */
function put(cells: { r: number; c: number; value: string }[]) {
  const edits = cells
    .filter((x) => sorted.value[x.r] && fields.value[x.c] && mayEdit(sorted.value[x.r]))
    .map((x) => ({
      row: sorted.value[x.r].row,
      field: fields.value[x.c],
      value: x.value,
      was: valueOf(sorted.value[x.r], fields.value[x.c]),
    }))
    .filter((e) => e.was !== e.value)
  if (edits.length) emit('edit', edits)
}
function each(make: (r: number, c: number) => string) {
  const out = []
  for (let r = block.value.r0; r <= block.value.r1; r++)
    for (let c = block.value.c0; c <= block.value.c1; c++) out.push({ r, c, value: make(r, c) })
  return out
}
function fillDown() {
  const top = several.value && block.value.r1 > block.value.r0 ? block.value.r0 : block.value.r0 - 1
  if (top >= 0) put(each((_, c) => valueOf(sorted.value[top], fields.value[c])))
}
function copy(e: ClipboardEvent) {
  if (editing.value) return
  const lines = []
  for (let r = block.value.r0; r <= block.value.r1; r++)
    lines.push(
      fields.value
        .slice(block.value.c0, block.value.c1 + 1)
        .map((f) => valueOf(sorted.value[r], f))
        .join('\t'),
    )
  e.clipboardData?.setData('text/plain', lines.join('\n'))
  e.preventDefault()
}
function paste(e: ClipboardEvent) {
  if (editing.value || !props.mayChange) return
  const text = e.clipboardData?.getData('text/plain').replace(/\r?\n$/, '') ?? ''
  e.preventDefault()
  const lines = text.split(/\r?\n/).map((l) => l.split('\t'))
  if (lines.length === 1 && lines[0].length === 1 && several.value) return put(each(() => lines[0][0].trim()))
  put(
    lines.flatMap((line, r) => line.map((v, c) => ({ r: block.value.r0 + r, c: block.value.c0 + c, value: v.trim() }))),
  )
}
const moves: Record<string, [number, number]> = {
  ArrowUp: [-1, 0],
  ArrowDown: [1, 0],
  ArrowLeft: [0, -1],
  ArrowRight: [0, 1],
  PageUp: [-18, 0],
  PageDown: [18, 0],
}
function keys(e: KeyboardEvent) {
  const { r, c } = at.value
  const command = e.ctrlKey || e.metaKey
  if (editing.value) {
    if (e.key === 'Enter' || e.key === 'Tab') {
      e.preventDefault()
      end(true)
      void (e.key === 'Enter' ? go(r + (e.shiftKey ? -1 : 1), c) : go(r, c + (e.shiftKey ? -1 : 1)))
    } else if (e.key === 'Escape') {
      e.stopPropagation()
      end(false)
      void go(r, c)
    }
    return
  }
  const move = moves[e.key]
  if (move) {
    e.preventDefault()
    void go(r + move[0], c + move[1], e.shiftKey)
  } else if (command && e.key === 'd') {
    e.preventDefault()
    fillDown()
  } else if (command && e.key === 'z') {
    e.preventDefault()
    emit('undo')
  } else if (e.key === 'Home' || e.key === 'End') {
    e.preventDefault()
    void go(command ? (e.key === 'Home' ? 0 : sorted.value.length - 1) : r, e.key === 'Home' ? 0 : fields.value.length)
  } else if (e.key === 'Enter' || e.key === 'F2') {
    e.preventDefault()
    void begin()
  } else if (e.key === 'Delete' || e.key === 'Backspace') {
    e.preventDefault()
    put(each(() => ''))
  } else if (e.key === ' ' && e.shiftKey) {
    e.preventDefault()
    choose(sorted.value[r].row)
  } else if (e.key.length === 1 && !command && !e.altKey) {
    e.preventDefault()
    e.stopPropagation()
    void begin(e.key)
  }
}
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
const short = (address: string) => address.replace(/@.*/, '@…')
const useSuggestion = (r: Of<'RosterRow'>) =>
  emit('edit', [{ row: r.row, field: 'address', value: r.problem!.args!.suggestion, was: r.address }])
const takeOver = (r: Of<'RosterRow'>, m: Of<'Remark'>) =>
  emit('edit', [{ row: r.row, field: m.field, value: m.value, was: valueOf(r, m.field) }])
const hint = (r: Of<'RosterRow'>) =>
  [
    r.also.length && t('grid.also-in', { classes: r.also.join(', ') }),
    r.sitsOut.length && t('grid.sits-out', { titles: r.sitsOut.join(', ') }),
  ]
    .filter(Boolean)
    .join(' · ')
const hints = computed(() => props.rows.some((r) => r.also.length || r.sitsOut.length || r.remarks.length || r.relink))
</script>

<template>
  <div ref="scroll" class="scroll" @copy="copy" @paste="paste">
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
            <span v-else-if="f === 'address' && sorted[i.index].problem" class="mend">
              <bdi>{{ valueOf(sorted[i.index], f) }}</bdi>
              <button
                v-if="mayChange && sorted[i.index].problem!.args?.suggestion"
                class="link"
                :title="reasonText(sorted[i.index].problem!)"
                @mousedown.stop
                @click="useSuggestion(sorted[i.index])"
              >
                {{ t('list.use', { address: short(sorted[i.index].problem!.args!.suggestion) }) }}
              </button>
              <span v-else class="bad" :title="reasonText(sorted[i.index].problem!)">
                {{ reasonText(sorted[i.index].problem!) }}</span
              >
              <button
                v-if="mayChange && sorted[i.index].problem!.code === 'account-other-name'"
                class="link"
                data-act="confirm"
                @mousedown.stop
                @click="emit('confirm', sorted[i.index].row)"
              >
                {{ t('grid.same-student') }}
              </button>
            </span>
            <template v-else>
              <bdi>{{ valueOf(sorted[i.index], f) }}</bdi>
              <span v-if="c === 0 && sorted[i.index].left" class="faint" :title="exact(sorted[i.index].left)">
                {{ t('grid.left-when', { when: ago(sorted[i.index].left, t) }) }}</span
              >
            </template>
          </td>
          <td v-if="hints" class="faint hint" :title="hint(sorted[i.index])">
            <RouterLink v-if="sorted[i.index].relink" class="relink" :to="{ name: 'room' }">{{
              t('grid.relink')
            }}</RouterLink>
            <template v-for="m in sorted[i.index].remarks" :key="m.code + m.field">
              <span class="remark"
                >{{ t(`remark.${m.code}`, { ...m.args, field: fieldName(m.field) }) }}
                <button v-if="mayChange && !sorted[i.index].left" class="link" @click="takeOver(sorted[i.index], m)">
                  {{ t('grid.take-over') }}
                </button></span
              >
            </template>
            {{ hint(sorted[i.index]) }}
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
.relink,
.remark {
  margin-right: 12px;
}
.relink {
  color: var(--brick);
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
/* The address may be cut short; what mends it stays in sight. */
.mend {
  display: flex;
  gap: 6px;
}
.mend bdi {
  overflow: hidden;
  text-overflow: ellipsis;
}
.mend > :last-child {
  flex: none;
}
</style>
