<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { useQuery } from '@tanstack/vue-query'
import { useVirtualizer } from '@tanstack/vue-virtual'
import { computed, nextTick, onBeforeUnmount, onMounted, ref, useTemplateRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { api, data, type Of } from '@/api/client'
import { isTyping } from '@/keys'
import TagMark from '@/parts/TagMark.vue'
import { useReasons } from '@/reasons'
import { tellDone, tellProblem } from '@/tell'
import { ago, exact, past, wall, weekday } from '@/when'
import KeyHelp from './KeyHelp.vue'
import StudentDesk from './StudentDesk.vue'
import { useClass } from './theClass'

/** The Register: students down, satchel and handouts across. */
const { cls, classId } = useClass()
const { t } = useI18n()
const { reasonText } = useReasons()
const router = useRouter()
const { data: reg } = useQuery({
  queryKey: computed(() => ['register', classId.value]),
  queryFn: () => data(api.GET('/classes/{classId}/register', { params: { path: { classId: classId.value } } })),
})
const mayPack = computed(() => cls.value?.my === 'owner' || cls.value?.my === 'teacher')
const mayLook = computed(() => cls.value?.my !== 'office')

type Sort = { by: 'name' | 'changed' | number; down: boolean }
const sort = ref<Sort>({ by: 'name', down: false })
const filter = ref('')
const rank = ['stuck', 'not-made', 'not-shared', 'shared', 'opened', 'working', 'out']
const order = computed(() => {
  const r = reg.value
  if (!r) return []
  const needle = filter.value.trim().toLocaleLowerCase()
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

const at = ref<{ row: string; column: number } | null>(null)
const table = useTemplateRef<HTMLTableElement>('table')
const search = useTemplateRef<{ focus(): void }>('search')
function choose(row: string, column: number) {
  if (!mayLook.value) return
  at.value = { row, column }
}
function focusCell(place: number) {
  virtual.value.scrollToIndex(place)
  void nextTick(() => table.value?.querySelector<HTMLElement>('[data-at]')?.focus())
}
const helping = ref(false)
const toppingUp = ref(false)
let asked = false // a top-up was asked for here: it is told when nothing is missing any more
async function topUp() {
  toppingUp.value = asked = true
  try {
    await api.POST('/classes/{classId}/top-up', { params: { path: { classId: classId.value } } })
  } catch (e) {
    tellProblem(e)
  } finally {
    toppingUp.value = false
  }
}
async function newHandout() {
  try {
    const h = await data(
      api.POST('/classes/{classId}/handouts', { params: { path: { classId: classId.value } }, body: {} }),
    )
    void router.push({ name: 'handout', params: { classId: classId.value, handoutId: h.id } })
  } catch (e) {
    tellProblem(e)
  }
}
function keys(e: KeyboardEvent) {
  if (e.key === 'Escape') {
    if (helping.value) helping.value = false
    else if (at.value) at.value = null
    return
  }
  if (isTyping(e) || e.ctrlKey || e.metaKey || e.altKey) return
  const r = reg.value
  if (e.key === '/') {
    e.preventDefault()
    search.value?.focus()
  } else if (e.key === 'n' && mayPack.value) void newHandout()
  else if (e.key === 't' && mayPack.value && r?.missing) void topUp()
  else if (e.key === '?') helping.value = true
  else if (r && /^Arrow/.test(e.key) && mayLook.value && r.students.length) {
    e.preventDefault()
    const rows = order.value
    const i = at.value ? rows.findIndex((n) => r.students[n].row === at.value!.row) : -1
    const di = e.key === 'ArrowDown' ? 1 : e.key === 'ArrowUp' ? -1 : 0
    const dc = e.key === 'ArrowRight' ? 1 : e.key === 'ArrowLeft' ? -1 : 0
    const ni = Math.max(0, Math.min(rows.length - 1, i + (i < 0 ? 1 : di)))
    const nc = Math.max(0, Math.min(r.columns.length - 1, (at.value?.column ?? 0) + dc))
    choose(r.students[rows[ni]].row, nc)
    focusCell(ni)
  }
}
onMounted(() => window.addEventListener('keydown', keys))
onBeforeUnmount(() => window.removeEventListener('keydown', keys))

const missing = computed(() => reg.value?.missing ?? 0)
watch(missing, (n, before) => {
  if (before && !n && asked) tellDone(t('register.topped-up'))
  asked &&= n > 0
})
const name = (s: Of<'RegisterStudent'>) =>
  s.family && s.given ? [s.family, `, ${s.given}`] : [s.family || s.given, '']
const tall = (week: number[]) => Math.max(30, ...week)
function notBegun(c: Of<'RegisterColumn'>) {
  return c.states.filter((s) => s === 'shared' || s === 'opened').length
}
const latest = computed(() => {
  const cs = reg.value?.columns.filter((c) => c.handout && c.due && !past(c.due)) ?? []
  return cs[cs.length - 1]
})
const key = ['not-made', 'not-shared', 'shared', 'opened', 'working', 'stuck']
</script>

<template>
  <div class="work" :class="{ wide: !at }">
    <Teleport defer to="#head-acts">
      <Button v-if="mayPack && missing" :loading="toppingUp" data-act="top-up" @click="topUp">{{
        t('register.top-up', { n: missing })
      }}</Button>
      <Button v-if="mayPack && cls?.students" type="primary" data-act="new-handout" @click="newHandout">{{
        t('handouts.new')
      }}</Button>
    </Teleport>
    <section v-if="reg && !reg.students.length" class="empty">
      <h2>{{ t('register.empty') }}</h2>
      <p class="quiet">{{ t('register.empty-text') }}</p>
      <RouterLink v-if="mayPack" :to="{ name: 'roster' }"
        ><Button type="primary">{{ t('today.go-list') }}</Button></RouterLink
      >
    </section>
    <section v-else-if="reg" class="left">
      <div class="over">
        <p class="note">
          <template v-if="!cls?.packed">
            <strong>{{ t('register.not-packed') }}</strong>
            <RouterLink v-if="mayPack" :to="{ name: 'room' }">{{ t('today.go-room') }}</RouterLink>
          </template>
          <template v-else>
            <strong>{{ t('register.shared', { shared: reg.sentence.shared, all: reg.sentence.students }) }}</strong>
            <template v-if="reg.stuck.length">
              {{ t('register.stuck', { n: reg.stuck.length }, reg.stuck.length) }}
              <a href="#" class="em" @click.prevent="choose(reg.stuck[0].row, 0)"
                >{{ reg.stuck[0].student }}: {{ reasonText(reg.stuck[0].reason) }}.</a
              >
            </template>
            <template v-if="latest && notBegun(latest)">
              {{
                t(
                  'register.not-begun',
                  { n: notBegun(latest), title: latest.title, due: wall(latest.due) },
                  notBegun(latest),
                )
              }}
            </template>
          </template>
        </p>
        <Input
          ref="search"
          v-model:value="filter"
          size="small"
          class="search"
          allow-clear
          :placeholder="t('register.find')"
          :aria-label="t('register.find')"
        />
      </div>
      <div ref="scroll" class="scroll">
        <table
          ref="table"
          :aria-rowcount="order.length + 1"
          :aria-label="t('page.register')"
          :style="{ maxWidth: `${660 + 120 * reg.columns.length}px` }"
        >
          <thead>
            <tr>
              <th class="n" :aria-sort="aria('name')">
                <button class="plain" @click="sortBy('name')">
                  <span class="label">{{ t('register.student') }}</span><small>{{ t('register.by-family') }}</small>
                </button>
              </th>
              <th v-for="(c, i) in reg.columns" :key="c.handout ?? 'satchel'" class="c" :aria-sort="aria(i)">
                <button class="plain" @click="sortBy(i)">
                  {{ c.handout ? c.title : t('register.satchel')
                  }}<small>{{ c.due ? wall(c.due).replace(/ [A-Z][a-z]+,/, '') : '\u00a0' }}</small>
                </button>
              </th>
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
                <button
                  class="plain"
                  :title="reg.students[i].name"
                  @click="choose(reg.students[i].row, at?.column ?? 0)"
                >
                  <bdi
                    >{{ name(reg.students[i])[0] }}<span>{{ name(reg.students[i])[1] }}</span></bdi
                  >
                </button>
              </th>
              <td
                v-for="(c, k) in reg.columns"
                :key="c.handout ?? 'satchel'"
                class="c"
                :class="{ cur: at?.row === reg.students[i].row && at.column === k }"
              >
                <button
                  class="plain cell"
                  :data-state="c.states[i]"
                  :data-at="at?.row === reg.students[i].row && at.column === k ? '' : undefined"
                  :tabindex="
                    at
                      ? at.row === reg.students[i].row && at.column === k
                        ? 0
                        : -1
                      : i === order[0] && k === 0
                        ? 0
                        : -1
                  "
                  @click="choose(reg.students[i].row, k)"
                >
                  <TagMark :state="c.states[i]" :fill="c.fill[i]" :words="c.words[i]" :inside="c.inside[i]" />
                </button>
              </td>
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
      <div class="key">
        <span v-for="s in key" :key="s"
          ><TagMark :state="s" :fill="s === 'working' ? 60 : 0" bare />{{ t(`state.${s}`) }}</span
        >
        <span><b aria-hidden="true">–</b>{{ t('state.out') }}</span>
        <span class="grow" />
        <button class="link" @click="helping = true">{{ t('keys.all') }}</button>
      </div>
    </section>
    <StudentDesk
      v-if="at"
      :class-id="classId"
      :row="at.row"
      :column="at.column"
      @close="at = null"
      @column="(k) => (at = { row: at!.row, column: k })"
    />
    <KeyHelp v-model:open="helping" />
  </div>
</template>

<style scoped>
.work {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 348px;
  min-height: 0;
}
.work.wide {
  grid-template-columns: minmax(0, 1fr);
}
.left {
  padding: 10px 0 0 24px;
  min-width: 0;
  min-height: 0;
  display: flex;
  flex-direction: column;
}
.over {
  display: flex;
  gap: 18px;
  align-items: flex-start;
  margin: 0 16px 8px 0;
}
.note {
  font-size: 14.5px;
  color: var(--ink-2);
  flex: 1;
  min-width: 0;
}
.note strong {
  color: var(--ink);
  font-weight: 650;
}
.note .em {
  color: var(--brick);
  font-weight: 650;
}
.search {
  width: 190px;
  flex: none;
}
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
.key {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 9px;
  font-size: 11.5px;
  color: var(--ink-2);
  padding: 7px 16px 8px 0;
  align-items: center;
}
.key span {
  display: flex;
  gap: 4px;
  align-items: center;
}
.key svg {
  transform: scale(0.72);
  margin: 0 -6px;
}
.none {
  padding: 18px 0;
}
.empty {
  padding: 48px 24px;
  display: grid;
  gap: 12px;
  justify-items: start;
  align-content: start;
}
@media (max-width: 1000px) {
  .work {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
