<script setup lang="ts">
import { Button, Input, Modal } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, onBeforeUnmount, onMounted, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { api, data, ProblemError, type Of } from '@/api/client'
import { freshenClass, useRoster } from '@/api/queries'
import { keys } from '@/api/keys'
import { covered } from '@/cover'
import { me } from '@/me'
import { isTyping, useKeys } from '@/keys'
import { withValue } from '@/parts/columnValues'
import { tellDone, tellProblem } from '@/tell'
import AddStudents from './AddStudents.vue'
import BringList from './BringList.vue'
import ChoosePanel from '@/register/ChoosePanel.vue'
import ChosenPanel from '@/register/ChosenPanel.vue'
import { sayTheirs } from '@/packing/mending'
import HistoryPanel from './HistoryPanel.vue'
import LeaversPanel from './LeaversPanel.vue'
import PlacingPart from './PlacingPart.vue'
import RosterDraft from './RosterDraft.vue'
import RosterGrid from './RosterGrid.vue'
import TeamsPanel from './TeamsPanel.vue'
import { useClass } from '@/class/theClass'

/** The class list: what was accepted, and a new list that waits to be. */
const { cls, classId, mayPack: mayChange } = useClass()
const { t } = useI18n()
const queries = useQueryClient()
const router = useRouter()
const path = computed(() => ({ path: { classId: classId.value } }))
const { data: rows } = useRoster(classId)
const { data: draft } = useQuery({
  queryKey: computed(() => keys.draft(classId.value)),
  enabled: computed(() => mayChange.value && !!cls.value?.draft),
  queryFn: async () => {
    try {
      return await data(api.GET('/classes/{classId}/draft', { params: path.value }))
    } catch (e) {
      if (e instanceof ProblemError && e.status === 404) return null
      throw e
    }
  },
})
const setDraft = (d: Of<'Draft'> | null) => queries.setQueryData(keys.draft(classId.value), d)

const bringing = ref(false)
async function brought(d: Of<'Draft'>) {
  setDraft(d)
  bringing.value = false
  await queries.invalidateQueries({ queryKey: keys.class(classId.value) })
}
const refresh = () => freshenClass(queries, classId.value)
// What was done last, with the way back beside it.
const last = ref<{ batch: string; text: string; follows: boolean } | null>(null)
async function accepted(a: Of<'Accepted'>) {
  const first = !draft.value?.compared
  setDraft(null)
  await refresh()
  if (!a.classes.includes(classId.value) && a.classes.length)
    return router.push({ name: 'roster', params: { classId: a.classes[0] } })
  if (first && a.classes.length === 1) return router.push({ name: 'room', params: { classId: classId.value } })
  const what = ['joined', 'returned', 'moved', 'changed', 'left']
    .filter((k) => a.counts[k])
    .map((k) => t(`compare.done-${k}`, { n: a.counts[k] }, a.counts[k]))
    .join(', ')
  last.value = { batch: a.batch, text: t('grid.accepted-note', { what }), follows: true }
}
async function dropDraft() {
  try {
    if (!draft.value) return
    const { id, revision } = draft.value
    await api.DELETE('/classes/{classId}/draft', { params: { ...path.value, query: { id, revision } } })
    setDraft(null)
    await queries.invalidateQueries({ queryKey: keys.class(classId.value) })
  } catch (e) {
    tellProblem(e)
    await queries.invalidateQueries({ queryKey: keys.draft(classId.value) })
  }
}
const present = computed(() => (rows.value ?? []).filter((r) => !r.left))
const gone = computed(() => (rows.value?.length ?? 0) - present.value.length)
const filter = ref('')
const shown = computed(() => {
  const needle = filter.value.trim().toLocaleLowerCase()
  return (rows.value ?? []).filter(
    (r) =>
      !needle ||
      `${r.name} ${r.sortName} ${r.address} ${r.number} ${r.period} ${r.level} ${r.team} ${Object.values(r.extra).join(' ')}`
        .toLocaleLowerCase()
        .includes(needle),
  )
})
const editable = computed(() => mayChange.value && !covered.value)
const panel = ref<'add' | 'teams' | 'choose' | 'history' | 'leavers' | ''>('')
if (useRoute().query.panel === 'leavers') panel.value = 'leavers' // from Today
const chosen = ref(new Set<string>())
const picked = computed(() => (rows.value ?? []).filter((r) => chosen.value.has(r.row)))
watch(chosen, (c) => c.size && panel.value === 'add' && (panel.value = ''))
// Acts follow each other: each knows of what stood before it.
let acts = Promise.resolve()
const waiting = new Set<() => Promise<Of<'RosterAct'>>>()
function act(how: () => Promise<Of<'RosterAct'>>, text: string) {
  waiting.add(how)
  acts = acts.then(async () => {
    if (!waiting.delete(how)) return
    try {
      const { batch } = await how()
      last.value = batch ? { batch, text, follows: false } : null
      void refresh()
    } catch (e) {
      tellProblem(e)
      await queries.invalidateQueries({ queryKey: keys.roster(classId.value) })
    }
  })
  return acts
}
// A page that goes away waits for no answer.
function away() {
  for (const how of waiting) void how()
  waiting.clear()
}
onMounted(() => window.addEventListener('pagehide', away))
onBeforeUnmount(() => window.removeEventListener('pagehide', away))
// What was typed stands at once; what is refused gives way to what there is.
function edit(edits: Of<'RosterEdit'>[]) {
  const typed = new Map<string, Of<'RosterEdit'>[]>()
  for (const e of edits) typed.set(e.row, [...(typed.get(e.row) ?? []), e])
  queries.setQueryData<Of<'RosterRow'>[]>(keys.roster(classId.value), (rows) =>
    rows?.map((r) =>
      (typed.get(r.row) ?? []).reduce((row, e) => withValue(row, e.field, e.value.trim().replace(/\s+/g, ' ')), r),
    ),
  )
  const params = path.value // of the class it was typed into, whichever is shown when its turn comes
  // It comes in also where the page is left at once; browsers take 64 KiB of that kind and no more.
  const keepalive = JSON.stringify(edits).length < 30_000
  return act(
    () => data(api.PATCH('/classes/{classId}/roster', { params, body: { edits }, keepalive })),
    edits.length > 1 ? t('grid.done') : '',
  )
}
function renameTeam(team: Of<'Team'>, name: string) {
  const params = { path: { classId: classId.value, teamId: team.id } }
  return act(
    () => data(api.PATCH('/classes/{classId}/teams/{teamId}', { params, body: { name } })),
    t('teams.renamed', { team: name }),
  )
}
function confirmAccount(row: string) {
  const of = classId.value
  return act(() => sayTheirs(of, row), '')
}
async function undo() {
  const l = last.value
  if (!l) return
  try {
    await api.POST('/classes/{classId}/roster/history/{batch}/undo', {
      params: { path: { classId: classId.value, batch: l.batch } },
    })
    last.value = null
    tellDone(t('grid.taken-back'))
    await refresh()
  } catch (e) {
    tellProblem(e)
    panel.value = 'history'
  }
}
function setLeft(left: boolean) {
  const params = path.value
  const body = { rows: picked.value.filter((r) => !!r.left !== left).map((r) => r.row), left }
  const n = body.rows.length
  return act(
    () => data(api.POST('/classes/{classId}/roster/left', { params, body })),
    t(left ? 'compare.done-left' : 'compare.done-returned', { n }, n),
  ).then(() => (chosen.value = new Set()))
}
function leave() {
  const n = picked.value.filter((r) => !r.left).length
  Modal.confirm({
    title: t('grid.leave-title', { n }, n),
    content: t('grid.leave-text'),
    okText: t('grid.leave', { n }, n),
    okButtonProps: { danger: true },
    cancelText: t('act.cancel'),
    onOk: () => setLeft(true),
  })
}
function broughtBack(d: Of<'Draft'>) {
  setDraft(d)
  panel.value = ''
  void queries.invalidateQueries({ queryKey: keys.class(classId.value) })
}
const toggle = (d: typeof panel.value) => (panel.value = panel.value === d ? '' : d)
function pressed(e: KeyboardEvent) {
  if (e.key === 'Escape' && panel.value) panel.value = ''
  if (e.key === '/' && !isTyping(e)) {
    e.preventDefault()
    document.querySelector<HTMLInputElement>('.search input')?.focus()
  }
}
useKeys(pressed)
const entering = computed(
  () => bringing.value || (mayChange.value && !draft.value && rows.value?.length === 0 && panel.value !== 'add'),
)
</script>

<template>
  <RosterDraft
    v-if="draft && !bringing"
    :class-id="classId"
    :draft="draft"
    @changed="setDraft"
    @accepted="accepted"
    @other="bringing = true"
    @drop="dropDraft"
    @stale="queries.invalidateQueries({ queryKey: keys.draft(classId) })"
  />
  <BringList
    v-else-if="entering"
    :class-id="classId"
    :newer="bringing"
    @brought="brought"
    @cancel="bringing = false"
    @one="panel = 'add'"
  />
  <div v-else-if="rows" class="roster" :class="{ beside: panel || picked.length }">
    <Teleport defer to="#head-acts">
      <template v-if="mayChange">
        <Button data-act="bring" :disabled="covered" @click="bringing = true">{{ t('roster.newer') }}</Button>
      </template>
    </Teleport>
    <section class="list">
      <PlacingPart v-if="me?.role === 'office'" :class-id="classId" :revision="cls?.revision ?? 0" />
      <div class="over">
        <Input
          v-model:value="filter"
          class="search"
          allow-clear
          :placeholder="t('register.find')"
          :aria-label="t('register.find')"
        />
        <span class="quiet count"
          >{{ t('class.count', { n: present.length }, present.length)
          }}<template v-if="gone"> · {{ t('grid.left', { n: gone }, gone) }}</template></span
        >
        <span class="grow" />
        <span class="tools">
          <button v-if="editable" class="link" :class="{ on: panel === 'add' }" data-panel="add" @click="toggle('add')">
            {{ t('grid.add') }}
          </button>
          <button class="link" :class="{ on: panel === 'choose' }" data-panel="choose" @click="toggle('choose')">
            {{ t('grid.choose') }}
          </button>
          <button
            v-if="editable"
            class="link"
            :class="{ on: panel === 'teams' }"
            data-panel="teams"
            @click="toggle('teams')"
          >
            {{ t('grid.teams') }}
          </button>
          <button
            v-if="gone && cls"
            class="link"
            :class="{ on: panel === 'leavers' }"
            data-panel="leavers"
            @click="toggle('leavers')"
          >
            {{ t('leaver.title') }}
          </button>
          <button class="link" :class="{ on: panel === 'history' }" data-panel="history" @click="toggle('history')">
            {{ t('grid.history') }}
          </button>
          <span class="export"
            >{{ t('grid.export') }}:
            <a
              v-for="f in ['csv', 'xlsx', 'ods']"
              :key="f"
              :href="`/api/classes/${classId}/roster/export/${f}`"
              download
              >{{ f }}</a
            ></span
          >
        </span>
      </div>
      <p v-if="covered && mayChange" class="last">{{ t('grid.covered') }}</p>
      <p v-else-if="last?.text" class="last" data-last>
        {{ last.text }}
        <template v-if="last.follows"
          >{{ t('grid.accepted-follows') }}
          <RouterLink :to="{ name: 'room' }">{{ t('grid.go-room') }}</RouterLink></template
        >
        <button class="link" data-act="undo-last" @click="undo">{{ t('grid.take-back') }}</button>
      </p>
      <RosterGrid
        v-if="rows.length"
        v-model:chosen="chosen"
        :rows="shown"
        :may-change="editable"
        @edit="edit"
        @confirm="confirmAccount"
        @undo="undo"
      />
      <p v-if="rows.length && !shown.length" class="quiet">{{ t('register.nobody', { text: filter }) }}</p>
      <p v-if="!rows.length" class="quiet">{{ t('register.empty') }}</p>
      <p v-if="editable && rows.length" class="faint keyline">{{ t('grid.keys') }}</p>
    </section>
    <aside v-if="panel || picked.length" class="panel">
      <button class="link close" @click="panel ? (panel = '') : (chosen = new Set())">{{ t('act.close') }}</button>
      <AddStudents
        v-if="panel === 'add'"
        :class-id="classId"
        :rows="rows"
        @added="
          (batch, names, n) => {
            last = { batch, text: t('add.added', { names }, n), follows: false }
            void refresh()
          }
        "
      />
      <TeamsPanel
        v-else-if="panel === 'teams'"
        :class-id="classId"
        :rows="rows"
        :chosen="chosen"
        :known="cls?.teams ?? []"
        @rename="renameTeam"
        @edit="(e) => edit(e).then(() => (panel = ''))"
      />
      <HistoryPanel
        v-else-if="panel === 'history'"
        :class-id="classId"
        :may-change="editable"
        @undone="refresh"
        @list="broughtBack"
      />
      <LeaversPanel v-else-if="panel === 'leavers'" />
      <ChoosePanel
        v-else-if="panel === 'choose'"
        :rows="rows"
        :may-change="mayChange"
        @use="
          (chosenRows) => {
            chosen = new Set(chosenRows)
            panel = ''
          }
        "
      />
      <ChosenPanel
        v-else
        :class-id="classId"
        :picked="picked"
        :rows="present"
        :may-change="editable"
        @edit="edit"
        @teams="panel = 'teams'"
        @leave="leave"
        @back="setLeft(false)"
      />
    </aside>
  </div>
</template>

<style scoped>
.roster {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  min-height: 0;
}
.roster.beside {
  grid-template-columns: minmax(0, 1fr) 340px;
}
.list {
  display: flex;
  flex-direction: column;
  min-height: 0;
  min-width: 0;
  padding: 10px 24px 0;
}
.over {
  display: flex;
  align-items: center;
  flex-wrap: wrap;
  gap: 6px 16px;
  margin-bottom: 8px;
}
.search {
  width: 190px;
}
.count {
  font-size: 14px;
}
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  align-items: baseline;
}
.tools .on {
  color: var(--ink);
  font-weight: 650;
  box-shadow: 0 2px 0 var(--leather);
}
.export {
  color: var(--ink-2);
  font-size: 14px;
}
.export a {
  margin-left: 5px;
}
.last {
  background: var(--rail);
  border-radius: 6px;
  padding: 5px 12px;
  margin-bottom: 8px;
  font-size: 14px;
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
}
.keyline {
  font-size: 12.5px;
  padding: 5px 0 7px;
}
.panel {
  border-left: 1px solid var(--thread);
  background: var(--sheet);
  padding: 16px 20px;
  overflow-y: auto;
  font-size: 14.5px;
  position: relative;
}
.close {
  position: absolute;
  right: 18px;
  top: 16px;
  font-size: 13.5px;
}
@media (max-width: 900px) {
  .roster.beside {
    grid-template-columns: minmax(0, 1fr);
    overflow-y: auto;
  }
}
</style>
