<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import type { Of } from '@/api/client'
import { useDraft } from '@/api/draft'
import { useRoster } from '@/api/queries'
import { covered } from '@/cover'
import { me } from '@/me'
import { isTyping, useKeys } from '@/keys'
import AddStudents from './AddStudents.vue'
import BringList from './BringList.vue'
import ChoosePanel from '@/register/ChoosePanel.vue'
import ChosenPanel from '@/register/ChosenPanel.vue'
import HistoryPanel from './HistoryPanel.vue'
import LeaversPanel from './LeaversPanel.vue'
import PlacingPart from './PlacingPart.vue'
import RosterDraft from './RosterDraft.vue'
import RosterGrid from './RosterGrid.vue'
import RosterTools, { type RosterPanel } from './RosterTools.vue'
import { useRosterActs } from './rosterActs'
import TeamsPanel from './TeamsPanel.vue'
import HeadActs from '@/class/HeadActs.vue'
import { useClass } from '@/class/theClass'

/** The class list: what was accepted, and a new list that waits to be. */
const { cls, classId, mayPack: mayChange } = useClass()
const { t } = useI18n()
const router = useRouter()
const { data: rows } = useRoster(classId)
const {
  draft,
  set: setDraft,
  came,
  drop: dropDraft,
  stale,
} = useDraft(classId, () => mayChange.value && !!cls.value?.draft)

const bringing = ref(false)
async function brought(d: Of<'Draft'>) {
  bringing.value = false
  await came(d)
}
const {
  last,
  refresh,
  edit,
  renameTeam,
  confirmAccount,
  undo,
  setLeft: setRowsLeft,
  confirmLeaving,
} = useRosterActs(classId, () => (panel.value = 'history'))
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
const panel = ref<RosterPanel | ''>('')
if (useRoute().query.panel === 'leavers') panel.value = 'leavers' // from Today
const chosen = ref(new Set<string>())
const picked = computed(() => (rows.value ?? []).filter((r) => chosen.value.has(r.row)))
watch(chosen, (c) => c.size && panel.value === 'add' && (panel.value = ''))
const setLeft = (left: boolean) => setRowsLeft(picked.value, left).then(() => (chosen.value = new Set()))
const leave = () => confirmLeaving(picked.value.filter((r) => !r.left).length, () => setLeft(true))
function broughtBack(d: Of<'Draft'>) {
  panel.value = ''
  void came(d)
}
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
    @stale="stale"
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
    <HeadActs>
      <template v-if="mayChange">
        <Button data-act="bring" :disabled="covered" @click="bringing = true">{{ t('roster.newer') }}</Button>
      </template>
    </HeadActs>
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
        <RosterTools v-model:panel="panel" :class-id="classId" :editable="editable" :gone="gone > 0 && !!cls" />
      </div>
      <p v-if="covered && mayChange" class="last">{{ t('grid.covered') }}</p>
      <p v-else-if="last?.follows" class="last" data-last>
        {{ last.text }} {{ t('grid.accepted-follows') }}
        <RouterLink :to="{ name: 'room' }">{{ t('grid.go-room') }}</RouterLink>
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
      <!-- Below the rows, which stay where they are while somebody types. -->
      <p v-if="editable && last?.text && !last.follows" class="last below" data-last>
        {{ last.text }}
        <button class="link" data-act="undo-last" @click="undo">{{ t('grid.take-back') }}</button>
      </p>
      <p v-else-if="editable && rows.length" class="faint keyline">{{ t('grid.keys') }}</p>
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
.last.below {
  margin: 5px 0 7px;
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
@media (pointer: coarse), (max-width: 760px) {
  .keyline {
    display: none; /* there are no such keys */
  }
}
</style>
