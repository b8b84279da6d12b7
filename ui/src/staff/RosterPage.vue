<script setup lang="ts">
import { Button, Input, Modal } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, onBeforeUnmount, onMounted, ref, useTemplateRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { api, data, ProblemError, sendFile, type Of } from '@/api/client'
import { covered } from '@/cover'
import { isTyping } from '@/keys'
import ChoiceBuilder from '@/parts/ChoiceBuilder.vue'
import { columnValues, valueOf, withValue } from '@/parts/columnValues'
import { isOwn, useFieldName } from '@/parts/fieldName'
import { sentence, tellDone, tellProblem } from '@/tell'
import AddStudents from './AddStudents.vue'
import { sayTheirs } from './address'
import HistoryDesk from './HistoryDesk.vue'
import RosterDraft from './RosterDraft.vue'
import RosterGrid from './RosterGrid.vue'
import TeamsDesk from './TeamsDesk.vue'
import { useClass } from './theClass'

/** The class list: what was accepted, and a new list that waits to be. */
const { cls, classId } = useClass()
const { t } = useI18n()
const queries = useQueryClient()
const router = useRouter()
const path = computed(() => ({ path: { classId: classId.value } }))
const mayChange = computed(() => cls.value?.my === 'owner' || cls.value?.my === 'teacher')
const { data: rows } = useQuery({
  queryKey: computed(() => ['roster', classId.value]),
  queryFn: () => data(api.GET('/classes/{classId}/roster', { params: path.value })),
})
const { data: draft } = useQuery({
  queryKey: computed(() => ['draft', classId.value]),
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
const setDraft = (d: Of<'Draft'> | null) => queries.setQueryData(['draft', classId.value], d)

const bringing = ref(false)
const text = ref('')
const problem = ref('')
const busy = ref(false)
const dragging = ref(false)
const file = useTemplateRef<HTMLInputElement>('file')
async function take(how: () => Promise<Of<'Draft'>>) {
  busy.value = true
  problem.value = ''
  try {
    setDraft(await how())
    bringing.value = false
    text.value = ''
    await queries.invalidateQueries({ queryKey: ['class', classId.value] })
  } catch (e) {
    problem.value = sentence(e)
  } finally {
    busy.value = false
  }
}
const paste = () =>
  take(() => data(api.POST('/classes/{classId}/draft', { params: path.value, body: { text: text.value } })))
function onPaste(e: ClipboardEvent) {
  const cells = e.clipboardData?.getData('text/plain') ?? ''
  if (!cells.trim() || text.value) return // added to what is typed: read when asked
  e.preventDefault()
  text.value = cells
  void paste()
}
function upload(f?: File | null) {
  if (f) void take(() => sendFile<Of<'Draft'>>(`/classes/${classId.value}/draft/file`, f, crypto.randomUUID()))
  if (file.value) file.value.value = ''
}
function drop(e: DragEvent) {
  dragging.value = false
  upload(e.dataTransfer?.files[0])
}
async function refresh() {
  const changed = ['roster', 'class', 'room', 'register', 'roster-history', 'desk'].map((what) => [what, classId.value])
  await Promise.all([...changed, ['classes']].map((queryKey) => queries.invalidateQueries({ queryKey })))
}
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
    await queries.invalidateQueries({ queryKey: ['class', classId.value] })
  } catch (e) {
    tellProblem(e)
    await queries.invalidateQueries({ queryKey: ['draft', classId.value] })
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
const desk = ref<'add' | 'teams' | 'choose' | 'history' | ''>('')
const chosen = ref(new Set<string>())
const picked = computed(() => (rows.value ?? []).filter((r) => chosen.value.has(r.row)))
watch(chosen, (c) => c.size && desk.value === 'add' && (desk.value = ''))
// Acts follow each other: each knows of what stood before it.
let acts = Promise.resolve()
function act(how: () => Promise<Of<'RosterAct'>>, text: string) {
  acts = acts.then(async () => {
    try {
      const { batch } = await how()
      last.value = batch ? { batch, text, follows: false } : null
      void refresh()
    } catch (e) {
      tellProblem(e)
      await queries.invalidateQueries({ queryKey: ['roster', classId.value] })
    }
  })
  return acts
}
// What was typed stands at once; what is refused gives way to what there is.
function edit(edits: Of<'RosterEdit'>[]) {
  const typed = new Map<string, Of<'RosterEdit'>[]>()
  for (const e of edits) typed.set(e.row, [...(typed.get(e.row) ?? []), e])
  queries.setQueryData<Of<'RosterRow'>[]>(['roster', classId.value], (rows) =>
    rows?.map((r) =>
      (typed.get(r.row) ?? []).reduce((row, e) => withValue(row, e.field, e.value.trim().replace(/\s+/g, ' ')), r),
    ),
  )
  const params = path.value // of the class it was typed into, whichever is shown when its turn comes
  return act(
    () => data(api.PATCH('/classes/{classId}/roster', { params, body: { edits } })),
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
    desk.value = 'history'
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
const bulkField = ref('level')
const bulkValue = ref('')
const setAll = () =>
  edit(
    picked.value
      .filter((r) => !r.left)
      .map((r) => ({ row: r.row, field: bulkField.value, value: bulkValue.value, was: valueOf(r, bulkField.value) })),
  )
const fieldName = useFieldName()
const bulkFields = computed(() => [
  'period',
  'level',
  'team',
  ...new Set(present.value.flatMap((r) => Object.keys(r.extra).map((x) => `extra:${x}`))),
])
const choice = ref<Of<'Choice'>>({ any: false, conditions: [], ticked: {} })
const caught = ref<Of<'Chosen'>[]>([])
const valuesOf = (column: string) => columnValues(rows.value ?? [], column)
const choiceColumns = computed(() => (cls.value?.columns ?? []).map((c) => c.field).filter((f) => !isOwn(f)))
function broughtBack(d: Of<'Draft'>) {
  setDraft(d)
  desk.value = ''
  void queries.invalidateQueries({ queryKey: ['class', classId.value] })
}
const toggle = (d: typeof desk.value) => (desk.value = desk.value === d ? '' : d)
function keys(e: KeyboardEvent) {
  if (e.key === 'Escape' && desk.value) desk.value = ''
  if (e.key === '/' && !isTyping(e)) {
    e.preventDefault()
    document.querySelector<HTMLInputElement>('.search input')?.focus()
  }
}
onMounted(() => window.addEventListener('keydown', keys))
onBeforeUnmount(() => window.removeEventListener('keydown', keys))
const entering = computed(
  () => bringing.value || (mayChange.value && !draft.value && rows.value?.length === 0 && desk.value !== 'add'),
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
    @stale="queries.invalidateQueries({ queryKey: ['draft', classId] })"
  />
  <section
    v-else-if="entering"
    class="bring"
    :class="{ dragging }"
    @dragover.prevent="dragging = true"
    @dragleave="dragging = false"
    @drop.prevent="drop"
  >
    <h2>{{ t('roster.bring') }}</h2>
    <p class="quiet">{{ t('roster.bring-text') }}</p>
    <textarea
      v-model="text"
      class="paste"
      rows="9"
      :placeholder="t('roster.paste-here')"
      :aria-label="t('roster.paste-here')"
      autofocus
      @paste="onPaste"
    />
    <p v-if="problem" class="bad" role="alert" data-problem>
      {{ problem }} <span class="quiet">{{ t('roster.nothing-changed') }}</span>
    </p>
    <div class="acts">
      <Button type="primary" :disabled="!text.trim()" :loading="busy" data-act="read" @click="paste">{{
        t('roster.read')
      }}</Button>
      <Button :disabled="busy" @click="file?.click()">{{ t('roster.file') }}</Button>
      <Button v-if="bringing" @click="bringing = false">{{ t('act.cancel') }}</Button>
      <Button v-else @click="desk = 'add'">{{ t('add.one-by-one') }}</Button>
      <input
        ref="file"
        type="file"
        accept=".csv,.tsv,.txt,.xlsx,.xlsm,.ods,.zip,text/*"
        hidden
        @change="upload(file?.files?.[0])"
      />
      <span class="quiet">{{ t('roster.drop') }}</span>
    </div>
  </section>
  <div v-else-if="rows" class="roster" :class="{ beside: desk || picked.length }">
    <Teleport defer to="#head-acts">
      <template v-if="mayChange">
        <Button data-act="bring" :disabled="covered" @click="bringing = true">{{ t('roster.newer') }}</Button>
      </template>
    </Teleport>
    <section class="list">
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
          <button v-if="editable" class="link" :class="{ on: desk === 'add' }" data-desk="add" @click="toggle('add')">
            {{ t('grid.add') }}
          </button>
          <button class="link" :class="{ on: desk === 'choose' }" data-desk="choose" @click="toggle('choose')">
            {{ t('grid.choose') }}
          </button>
          <button
            v-if="editable"
            class="link"
            :class="{ on: desk === 'teams' }"
            data-desk="teams"
            @click="toggle('teams')"
          >
            {{ t('grid.teams') }}
          </button>
          <button class="link" :class="{ on: desk === 'history' }" data-desk="history" @click="toggle('history')">
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
    <aside v-if="desk || picked.length" class="desk">
      <button class="link close" @click="desk ? (desk = '') : (chosen = new Set())">{{ t('act.close') }}</button>
      <AddStudents
        v-if="desk === 'add'"
        :class-id="classId"
        :rows="rows"
        @added="
          (batch, names, n) => {
            last = { batch, text: t('add.added', { names }, n), follows: false }
            void refresh()
          }
        "
      />
      <TeamsDesk
        v-else-if="desk === 'teams'"
        :class-id="classId"
        :rows="rows"
        :chosen="chosen"
        :known="cls?.teams ?? []"
        @rename="renameTeam"
        @edit="(e) => edit(e).then(() => (desk = ''))"
      />
      <HistoryDesk
        v-else-if="desk === 'history'"
        :class-id="classId"
        :may-change="editable"
        @undone="refresh"
        @list="broughtBack"
      />
      <template v-else-if="desk === 'choose'">
        <h2>{{ t('grid.choose') }}</h2>
        <ChoiceBuilder
          v-model="choice"
          :classes="[classId]"
          :columns="choiceColumns"
          :values="valuesOf"
          @chosen="(c) => (caught = c)"
        />
        <Button
          v-if="mayChange"
          class="use"
          data-act="use-choice"
          @click="
            () => {
              chosen = new Set(caught.filter((c) => c.in).map((c) => c.row))
              desk = ''
            }
          "
          >{{ t('choice.use', { n: caught.filter((c) => c.in).length }, caught.filter((c) => c.in).length) }}</Button
        >
      </template>
      <template v-else>
        <h2>{{ t('grid.chosen-n', { n: picked.length }, picked.length) }}</h2>
        <p class="quiet names">{{ picked.map((r) => r.name).join(', ') }}</p>
        <template v-if="editable">
          <form class="bulk" @submit.prevent="setAll">
            <span>{{ t('grid.set-for') }}</span>
            <select v-model="bulkField" class="pick-one" :aria-label="t('choice.column')">
              <option v-for="f in bulkFields" :key="f" :value="f">{{ fieldName(f) }}</option>
            </select>
            <Input
              v-model:value="bulkValue"
              size="small"
              :placeholder="t('grid.value')"
              :aria-label="t('grid.value')"
            />
            <Button size="small" html-type="submit" data-act="set-all">{{ t('grid.set') }}</Button>
          </form>
          <div class="acts">
            <Button size="small" @click="desk = 'teams'">{{ t('grid.teams') }}</Button>
            <Button v-if="picked.some((r) => !r.left)" size="small" data-act="leave" @click="leave">{{
              t('grid.leave', { n: picked.filter((r) => !r.left).length }, picked.filter((r) => !r.left).length)
            }}</Button>
            <Button v-if="picked.some((r) => r.left)" size="small" data-act="back" @click="setLeft(false)">{{
              t('grid.back')
            }}</Button>
          </div>
        </template>
      </template>
    </aside>
  </div>
</template>

<style scoped>
.bring {
  padding: 24px;
  display: grid;
  gap: 12px;
  align-content: start;
  max-width: 820px;
}
.bring.dragging .paste {
  border-color: var(--leather);
  background: var(--leather-soft);
}
.paste {
  width: 100%;
  font: inherit;
  font-size: 14px;
  border: 2px dashed var(--line-field);
  border-radius: 8px;
  padding: 14px 16px;
  background: var(--sheet);
  color: var(--ink);
  resize: vertical;
}
.paste::placeholder {
  color: var(--ink-3);
}
.acts {
  display: flex;
  gap: 10px;
  align-items: center;
  flex-wrap: wrap;
}
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
.desk {
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
.names {
  margin: 6px 0 12px;
  font-size: 14px;
}
.bulk {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr) auto;
  gap: 6px;
  margin-bottom: 12px;
}
.bulk span {
  grid-column: 1 / -1;
}
.use {
  margin-top: 10px;
}
@media (max-width: 900px) {
  .roster.beside {
    grid-template-columns: minmax(0, 1fr);
    overflow-y: auto;
  }
}
</style>
