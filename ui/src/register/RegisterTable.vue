<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, nextTick, useTemplateRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { Checkbox } from 'ant-design-vue'
import type { Of } from '@/api/client'
import TagMark from '@/parts/TagMark.vue'
import ApartMark from './ApartMark.vue'
import ShownMark from './ShownMark.vue'
import { ago, exact } from '@/when'
import { useFolded, type Shown } from './folded'
import { useNarrow } from '@/parts/narrow'
import { useOrder } from './order'
import RegisterHead from './RegisterHead.vue'
import WeekBars from './WeekBars.vue'

/** The table of the Register: students down, satchel and handouts across. */
const props = defineProps<{
  reg: Of<'Register'>
  filter: string
  mayLook: boolean
  one: number
  only: Set<string> | null
  doors: Map<string, number>
}>()
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

const { order, sortBy, aria } = useOrder(
  () => props.reg,
  () => props.filter,
  () => props.only,
)

// Of a very large class only the rows in sight are drawn.
const scroll = useTemplateRef<HTMLElement>('scroll')
const narrow = useNarrow()
const rowHeight = computed(() => (narrow.value ? 62 : 25))
const virtual = useVirtualizer(
  computed(() => ({
    count: order.value.length,
    getScrollElement: () => scroll.value,
    estimateSize: () => rowHeight.value,
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
const { columns: all, spans, headed, show } = useFolded(() => props.reg)
// On a phone there is room for the satchel and one handout.
const columns = computed(() => (narrow.value ? [...new Set([0, props.one])].map((k): Shown => ({ k })) : all.value))
const name = (s: Of<'RegisterStudent'>) =>
  s.family && s.given ? [s.family, `, ${s.given}`] : [s.family || s.given, '']
const differs = (i: number, k: number) =>
  props.doors.get(`${props.reg.students[i].row} ${props.reg.columns[k].handout ?? ''}`) ?? 0
const here = (i: number, k: number) => at.value?.row === props.reg.students[i].row && at.value.column === k
</script>

<template>
  <div ref="scroll" class="scroll" :class="{ narrow }" data-sideways>
    <table
      ref="table"
      :aria-rowcount="order.length + 1"
      :aria-label="t('page.register')"
      :style="narrow ? undefined : { maxWidth: `${660 + 120 * columns.length}px` }"
    >
      <RegisterHead
        :reg="reg"
        :columns="columns"
        :spans="headed && !narrow ? spans : []"
        :aria="aria"
        :choosing="!!chosen"
        @sort="sortBy"
        @show="show"
        @all="allChosen"
      />
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
              >{{ name(reg.students[i]).join('') }}
              <small v-if="reg.students[i].number">{{ reg.students[i].number }}</small></Checkbox
            >
            <button
              v-else
              class="plain"
              :title="reg.students[i].name"
              @click="choose(reg.students[i].row, at?.column ?? 0)"
            >
              <bdi
                >{{ name(reg.students[i])[0] }}<span>{{ name(reg.students[i])[1] }}</span></bdi
              ><small v-if="reg.students[i].number" class="twin">{{ reg.students[i].number }}</small>
            </button>
            <small v-if="narrow">{{ reg.changed[i] ? ago(reg.changed[i] * 1000, t) : '–' }}</small>
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
                <ShownMark v-if="reg.columns[k].shown[i]" :state="reg.columns[k].shown[i]" />
                <ApartMark
                  v-if="reg.columns[k].apart[i] || differs(i, k)"
                  :apart="reg.columns[k].apart[i] ?? 0"
                  :doors="differs(i, k)"
                />
              </button>
            </td>
          </template>
          <td v-if="!narrow" class="w">
            <WeekBars :week="reg.week[i]" :days="reg.days" />
          </td>
          <td v-if="!narrow" class="when" :title="reg.changed[i] ? exact(reg.changed[i] * 1000) : undefined">
            {{ reg.changed[i] ? ago(reg.changed[i] * 1000, t) : '–' }}
          </td>
        </tr>
        <tr v-if="below > 0" aria-hidden="true">
          <td class="gap" :style="{ height: `${below}px` }" />
        </tr>
      </tbody>
    </table>
    <p v-if="!order.length" class="quiet none">{{ t('register.nobody') }}</p>
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
.away {
  width: 1%;
  padding: 0 8px;
  text-align: center;
  background: var(--thread-2);
  font-size: 12px;
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
.none {
  padding: 18px 0;
}
.narrow {
  padding-right: 12px;
}
.narrow :deep(thead) {
  position: absolute;
  clip-path: inset(50%);
}
.narrow tbody th,
.narrow td {
  height: 60px;
}
.narrow tbody th.n {
  max-width: 190px;
}
.narrow tbody th.n button {
  display: block;
  font-size: 15.5px;
  font-weight: 650;
}
.narrow td.c {
  width: 1%;
}
.narrow .cell {
  min-height: 44px;
}
.twin {
  margin-left: 6px;
}
small {
  color: var(--ink-2);
  font-size: 13px;
  font-weight: 400;
}
@media print {
  tbody th.n {
    position: static;
    background: none;
  }
}
</style>
