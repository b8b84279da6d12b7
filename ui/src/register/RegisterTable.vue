<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { Checkbox } from 'ant-design-vue'
import type { Of } from '@/api/client'
import TagMark from '@/parts/TagMark.vue'
import { ago, exact, wallShort, weekday } from '@/when'

/** The table of the Register: students down, satchel and handouts across. */
const props = defineProps<{ reg: Of<'Register'>; filter: string; mayLook: boolean }>()
/** Students that something is to be done for, where some are being chosen. */
const chosen = defineModel<string[] | null>('chosen', { required: true })
function tick(row: string) {
  const now = chosen.value ?? []
  chosen.value = now.includes(row) ? now.filter((r) => r !== row) : [...now, row]
}
const allChosen = () => (chosen.value = order.value.map((i) => props.reg.students[i].row))
export type At = { row: string; column: number }
const at = defineModel<At | null>('at', { required: true })
const { t } = useI18n()

type Sort = { by: 'name' | 'changed' | number; down: boolean }
const sort = ref<Sort>({ by: 'name', down: false })
const rank: Of<'CellState'>[] = ['stuck', 'not-made', 'not-shared', 'shared', 'opened', 'working', 'out']
const order = computed(() => {
  const r = props.reg
  const needle = props.filter.trim().toLocaleLowerCase()
  const rows = r.students
    .map((_, i) => i)
    .filter((i) => !needle || r.students[i].name.toLocaleLowerCase().includes(needle))
  const { by, down } = sort.value
  if (by === 'changed') rows.sort((a, b) => r.changed[b] - r.changed[a])
  else if (by !== 'name') {
    const c = r.columns[by]
    rows.sort((a, b) => rank.indexOf(c.states[a]) - rank.indexOf(c.states[b]) || c.words[a] - c.words[b] || a - b)
  }
  return down ? rows.reverse() : rows
})
function sortBy(by: Sort['by']) {
  sort.value = { by, down: sort.value.by === by && !sort.value.down }
}
const aria = (by: Sort['by']) => (sort.value.by === by ? (sort.value.down ? 'descending' : 'ascending') : 'none')

// Of a very large class only the rows in sight are drawn.
const scroll = useTemplateRef<HTMLElement>('scroll')
const rowHeight = 25
const virtual = useVirtualizer(
  computed(() => ({
    count: order.value.length,
    getScrollElement: () => scroll.value,
    estimateSize: () => rowHeight,
    overscan: order.value.length > 200 ? 16 : 200,
  })),
)
const drawn = computed(() => virtual.value.getVirtualItems())
const rows = computed(() => drawn.value.map((v) => order.value[v.index]).filter((i) => i !== undefined))
const above = computed(() => drawn.value[0]?.start ?? 0)
const below = computed(() => virtual.value.getTotalSize() - (drawn.value.at(-1)?.end ?? 0))

const table = useTemplateRef<HTMLTableElement>('table')
function choose(row: string, column: number) {
  if (props.mayLook) at.value = { row, column }
}
/** Goes from cell to cell; from nowhere to the first. */
function move(down: number, across: number) {
  const r = props.reg
  if (!props.mayLook || !r.students.length) return
  const rows = order.value
  const i = at.value ? rows.findIndex((n) => r.students[n].row === at.value!.row) : -1
  const place = Math.max(0, Math.min(rows.length - 1, i + (i < 0 ? 1 : down)))
  const open = columns.value.filter((c) => !c.away).map((c) => c.k)
  const now = open.findLastIndex((k) => k <= (at.value?.column ?? 0))
  choose(r.students[rows[place]].row, open[Math.max(0, Math.min(open.length - 1, now + across))])
  virtual.value.scrollToIndex(place)
  void nextTick(() => table.value?.querySelector<HTMLElement>('[data-at]')?.focus())
}
defineExpose({ move })
// Columns stand under their headings; those of a folded one are put away behind one narrow column.
const shown = ref<Record<string, boolean>>({})
const folded = (id?: string) => !!id && !(shown.value[id] ?? !props.reg.headings.find((h) => h.id === id)?.folded)
type Slot = { k: number; away?: number; heading?: string }
const columns = computed(() => {
  const out: Slot[] = []
  props.reg.columns.forEach((c, k) => {
    const last = out.at(-1)
    if (!folded(c.heading)) out.push({ k, heading: c.heading })
    else if (last?.away && last.heading === c.heading) last.away++
    else out.push({ k, heading: c.heading, away: 1 })
  })
  return out
})
const spans = computed(() => {
  const out: { id: string; title: string; n: number; away: boolean }[] = []
  for (const c of columns.value) {
    const last = out.at(-1)
    if (last && last.id === (c.heading ?? '')) last.n++
    else
      out.push({
        id: c.heading ?? '',
        title: props.reg.headings.find((h) => h.id === c.heading)?.title ?? '',
        n: 1,
        away: !!c.away,
      })
  }
  return out
})
const headed = computed(() => spans.value.some((s) => s.id))
const name = (s: Of<'RegisterStudent'>) =>
  s.family && s.given ? [s.family, `, ${s.given}`] : [s.family || s.given, '']
const tall = (week: number[]) => Math.max(30, ...week)
const here = (i: number, k: number) => at.value?.row === props.reg.students[i].row && at.value.column === k
</script>

<template>
  <div ref="scroll" class="scroll">
    <table
      ref="table"
      :aria-rowcount="order.length + 1"
      :aria-label="t('page.register')"
      :style="{ maxWidth: `${660 + 120 * columns.length}px` }"
    >
      <thead>
        <tr v-if="headed" class="heads">
          <td />
          <th v-for="(s, i) in spans" :key="i" :colspan="s.n" scope="colgroup">
            <button
              v-if="s.id"
              class="plain"
              :aria-expanded="!s.away"
              :title="t(s.away ? 'headings.unfold' : 'headings.put', { title: s.title })"
              :data-heading="s.title"
              @click="shown = { ...shown, [s.id]: s.away }"
            >
              <span aria-hidden="true">{{ s.away ? '▸' : '▾' }}</span> {{ s.title }}
            </button>
          </th>
          <td colspan="2" />
        </tr>
        <tr>
          <th class="n" :aria-sort="aria('name')">
            <button class="plain" @click="sortBy('name')">
              <span class="label">{{ t('register.student') }}</span><small>{{ t('register.by-family') }}</small>
            </button>
            <button v-if="chosen" class="link every" data-act="choose-all" @click="allChosen">
              {{ t('chosen.all') }}
            </button>
          </th>
          <template v-for="x in columns" :key="reg.columns[x.k].handout ?? 'satchel'">
            <td v-if="x.away" class="away">{{ x.away }}</td>
            <th v-else class="c" :aria-sort="aria(x.k)">
              <button class="plain" @click="sortBy(x.k)">
                {{ reg.columns[x.k].handout ? reg.columns[x.k].title : t('register.satchel')
                }}<small>{{ reg.columns[x.k].due ? wallShort(reg.columns[x.k].due) : '\u00a0' }}</small>
              </button>
            </th>
          </template>
          <th class="w">{{ t('register.week') }}</th>
          <th :aria-sort="aria('changed')">
            <button class="plain" @click="sortBy('changed')">
              <span class="label">{{ t('register.changed') }}</span>
            </button>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-if="above > 0" aria-hidden="true">
          <td class="gap" :style="{ height: `${above}px` }" />
        </tr>
        <tr
          v-for="i in rows"
          :key="reg.students[i].row"
          :class="{ sel: at?.row === reg.students[i].row }"
          :data-student="reg.students[i].name"
        >
          <th scope="row" class="n">
            <Checkbox
              v-if="chosen"
              :checked="chosen.includes(reg.students[i].row)"
              :data-choose="reg.students[i].name"
              @update:checked="tick(reg.students[i].row)"
              >{{ name(reg.students[i]).join('') }}</Checkbox
            >
            <button
              v-else
              class="plain"
              :title="reg.students[i].name"
              @click="choose(reg.students[i].row, at?.column ?? 0)"
            >
              <bdi
                >{{ name(reg.students[i])[0] }}<span>{{ name(reg.students[i])[1] }}</span></bdi
              >
            </button>
          </th>
          <template v-for="{ k, away } in columns" :key="reg.columns[k].handout ?? 'satchel'">
            <td v-if="away" class="away" />
            <td v-else class="c" :class="{ cur: here(i, k) }">
              <button
                class="plain cell"
                :data-state="reg.columns[k].states[i]"
                :data-at="here(i, k) ? '' : undefined"
                :tabindex="(at ? here(i, k) : i === order[0] && k === 0) ? 0 : -1"
                @click="choose(reg.students[i].row, k)"
              >
                <TagMark
                  :state="reg.columns[k].states[i]"
                  :fill="reg.columns[k].fill[i]"
                  :words="reg.columns[k].words[i]"
                  :inside="reg.columns[k].inside[i]"
                />
              </button>
            </td>
          </template>
          <td class="w">
            <span
              class="week"
              role="img"
              :aria-label="t('register.week-words', { n: reg.week[i].reduce((a, b) => a + b, 0) })"
            >
              <i
                v-for="(v, d) in reg.week[i]"
                :key="d"
                :class="{ z: !v }"
                :style="{ height: v ? `${3 + (11 * v) / tall(reg.week[i])}px` : '2px' }"
                :title="`${weekday(reg.days[d])}: ${t('state.words', { n: v }, v)}`"
              />
            </span>
          </td>
          <td class="when" :title="reg.changed[i] ? exact(reg.changed[i] * 1000) : undefined">
            {{ reg.changed[i] ? ago(reg.changed[i] * 1000, t) : '–' }}
          </td>
        </tr>
        <tr v-if="below > 0" aria-hidden="true">
          <td class="gap" :style="{ height: `${below}px` }" />
        </tr>
      </tbody>
    </table>
    <p v-if="!order.length" class="quiet none">{{ t('register.nobody', { text: filter }) }}</p>
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
thead th {
  position: sticky;
  top: 0;
  z-index: 2;
  background: var(--paper);
  font-weight: 600;
  font-size: 12.5px;
  color: var(--ink-2);
  text-align: left;
  vertical-align: bottom;
  padding: 0 6px 6px 0;
  border-bottom: 1.5px solid var(--thread);
  line-height: 1.2;
}
.heads th {
  position: static;
  border-bottom: 0;
  padding: 0 6px 2px 0;
}
.heads button {
  max-width: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  border-bottom: 2px solid var(--belt-done);
}
.every {
  min-width: 28px;
  min-height: 24px;
}
.heads td {
  border: 0;
}
.away {
  width: 1%;
  padding: 0 8px;
  text-align: center;
  background: var(--thread-2);
  font-size: 12px;
}
thead .away {
  vertical-align: bottom;
  border-bottom: 1.5px solid var(--thread);
  padding-bottom: 6px;
}
thead th.c button {
  max-width: 96px;
  text-align: center;
}
thead th button:hover {
  color: var(--ink);
}
thead th[aria-sort='ascending'] .label::after {
  content: ' ▴';
}
thead th[aria-sort='descending'] .label::after {
  content: ' ▾';
}
small {
  display: block;
  font-weight: 400;
  color: var(--ink-3);
  font-size: 11.5px;
  white-space: nowrap;
}
.c {
  text-align: center !important;
  padding-left: 2px !important;
  padding-right: 2px !important;
}
tbody th,
td {
  height: 23.4px;
  padding: 0 6px 0 0;
  border-bottom: 1px solid var(--thread-2);
  white-space: nowrap;
  line-height: 1;
  text-align: left;
  font-weight: 500;
}
tbody th.n {
  position: sticky;
  left: 0;
  background: var(--paper);
  z-index: 1;
  max-width: 230px;
  overflow: hidden;
  text-overflow: ellipsis;
}
tbody th.n button {
  max-width: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
  line-height: 24px;
  vertical-align: top;
}
tbody th.n span {
  color: var(--ink-2);
  font-weight: 400;
}
.cell {
  display: inline-block;
  line-height: 1;
  padding: 0 4px;
}
tr:hover th.n,
tr:hover td {
  background: color-mix(in srgb, var(--leather-soft) 45%, var(--paper));
}
tr.sel th.n,
tr.sel td {
  background: var(--leather-soft);
}
td.cur {
  box-shadow: inset 0 0 0 2px var(--leather);
  border-radius: 4px;
}
td.gap {
  border: 0;
  padding: 0;
}
.when {
  color: var(--ink-2);
  font-size: 13px;
  font-weight: 400;
}
.week {
  display: inline-flex;
  gap: 2px;
  align-items: flex-end;
  height: 14px;
}
.week i {
  width: 5px;
  background: var(--moss-fill);
  border-radius: 1px 1px 0 0;
}
.week i.z {
  background: var(--thread);
}
.none {
  padding: 18px 0;
}
</style>
