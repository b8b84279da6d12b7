<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { useRegister } from '@/api/queries'
import { useNewHandout } from '@/handout/newHandout'
import { useNarrow, useWide } from '@/parts/narrow'
import PickOne from '@/parts/PickOne.vue'
import { tellElsewhere } from '@/tell'
import SidePanel from '@/parts/SidePanel.vue'
import ChosenActs from './ChosenActs.vue'
import ClassSide from './ClassSide.vue'
import RegisterFilter from './RegisterFilter.vue'
import RegisterKey from './RegisterKey.vue'
import RegisterNote from './RegisterNote.vue'
import RegisterTable, { type At } from './RegisterTable.vue'
import StudentPanel from './StudentPanel.vue'
import { useCellDoors } from './cellDoors'
import { useRegisterKeys } from './registerKeys'
import TopUpPanel from '@/packing/TopUpPanel.vue'
import FirstSteps from '@/class/FirstSteps.vue'
import HeadActs from '@/class/HeadActs.vue'
import { useClass } from '@/class/theClass'

/** The Register: students down, satchel and handouts across. */
const { cls, classId, mayPack, mayLook } = useClass()
const { t } = useI18n()
const router = useRouter()
const route = useRoute()
const { data: reg } = useRegister(classId)
const doors = useCellDoors(classId)
const filter = ref('')
const filtering = ref(false)
const only = ref<Set<string> | null>(null) // those that a filter leaves
function unfilter() {
  filtering.value = false
  only.value = null
}
const at = ref<At | null>(null)
watch(at, (a) => a && (toppingUp.value = false))
// A link to a student opens what is theirs, each time it is followed.
watch(
  () => reg.value && route.query.student,
  (row) => {
    if (!row) return
    const column = reg.value!.columns.findIndex((c) => c.handout && c.handout === route.query.about)
    if (reg.value!.students.some((s) => s.row === row)) at.value = { row: String(row), column: Math.max(0, column) }
    void router.replace({ query: {} })
  },
  { immediate: true },
)
const table = useTemplateRef<{ move(down: number, across: number): void }>('table')
const chosen = ref<string[] | null>(null)
const about = ref('') // the handout that something is to be done about
/** Some are selected who haven't begun with a handout: they are written to, or something else is done. */
function writeTo(rows: string[], handout: string) {
  choose(true)
  chosen.value = rows
  about.value = handout
}
const closing = ref(false) // it is about closing, with the key for that
/** Those that are chosen, or the one whose cell is; of nobody, all: with the handout that is looked at. */
function closeChosen() {
  const here = at.value
  const rows = chosen.value?.length ? chosen.value : here ? [here.row] : (reg.value?.students.map((s) => s.row) ?? [])
  const handout = here ? reg.value?.columns[here.column]?.handout : about.value || shownOne.value
  writeTo(rows, handout ?? '')
  closing.value = true
}
function choose(on: boolean) {
  closing.value = false
  chosen.value = on ? [] : null
  about.value = ''
  at.value = null
  toppingUp.value = false
}
watch(at, (a) => a && (chosen.value = null))
const search = useTemplateRef<{ focus(): void }>('search')
const toppingUp = ref(false) // what is missing is looked at
let asked = false // a top-up was asked for here: it is told when nothing is missing any more
function topUp() {
  at.value = null
  chosen.value = null
  toppingUp.value = true
}
watch(mayPack, (may) => may && route.query.do === 'top-up' && topUp(), { immediate: true })
function toppedUp() {
  toppingUp.value = false
  asked = true
}
const begin = useNewHandout()
const newHandout = () => begin(classId.value)
const open = (ref: { value: unknown }, none: unknown) => () => !!ref.value && ((ref.value = none), true)
useRegisterKeys({
  leave: [open(toppingUp, false), open(chosen, null), open(at, null)],
  find: () => search.value?.focus(),
  begin: () => mayPack.value && void newHandout(),
  topUp: () => mayPack.value && reg.value?.missing && topUp(),
  pens: () => mayPack.value && closeChosen(),
  move: (down, across) => table.value?.move(down, across),
})

const missing = computed(() => reg.value?.missing ?? 0)
watch(missing, (n, before) => {
  if (before && !n && asked) tellElsewhere(t('register.topped-up'))
  asked &&= n > 0
})
// On a phone one handout is shown: the one that was picked, else the newest.
const narrow = useNarrow()
const roomy = useWide()
// Beside the table stands one thing: a panel, else what comes next in a class that was given nothing yet,
// else how the class came on where there is room.
const alone = computed(() => !at.value && !toppingUp.value && !chosen.value)
const next = computed(() => {
  if (!alone.value || !mayPack.value || !reg.value?.students.length) return undefined
  return !cls.value?.packed ? 'room' : handouts.value.length ? undefined : 'handout'
})
const goOn = () => (next.value === 'room' ? router.push({ name: 'room' }) : newHandout())
const beside = computed(
  () =>
    alone.value && !next.value && roomy.value && mayLook.value && !!reg.value?.students.length && !!cls.value?.packed,
)
const picked = ref('')
const handouts = computed(() =>
  (reg.value?.columns ?? []).filter((c) => c.handout).map((c) => ({ value: c.handout!, label: c.title })),
)
const shownOne = computed(() => picked.value || handouts.value.at(-1)?.value)
const one = computed(() =>
  Math.max(0, reg.value?.columns.findIndex((c) => c.handout && c.handout === shownOne.value) ?? 0),
)
</script>

<template>
  <div class="work" :class="{ wide: alone && !next, beside }">
    <HeadActs>
      <Button
        v-if="mayPack && reg?.students.length"
        :aria-pressed="!!chosen"
        data-act="choose"
        @click="choose(!chosen)"
        >{{ t('chosen.choose') }}</Button
      >
      <Button v-if="mayPack && missing" :aria-expanded="toppingUp" data-act="top-up" @click="topUp">{{
        t('register.top-up', { n: missing })
      }}</Button>
      <Button v-if="mayPack && cls?.students" type="primary" data-act="new-handout" @click="newHandout">{{
        t('handouts.new')
      }}</Button>
    </HeadActs>
    <section v-if="reg && !reg.students.length" class="empty">
      <h2>{{ t('register.empty') }}</h2>
      <FirstSteps v-if="mayPack" next="list" @go="router.push({ name: 'roster' })" />
    </section>
    <section v-else-if="reg" class="left">
      <div class="over">
        <RegisterNote :reg="reg" @look="(row) => (at = { row, column: 0 })" @write="writeTo" />
        <Input
          ref="search"
          v-model:value="filter"
          size="small"
          class="search"
          allow-clear
          :placeholder="t('register.find')"
          :aria-label="t('register.find')"
        />
        <button
          v-if="mayLook"
          class="link filter"
          :aria-expanded="filtering"
          data-act="filter"
          @click="filtering ? unfilter() : (filtering = true)"
        >
          {{ t('register.filter') }}
        </button>
        <PickOne
          v-if="narrow && handouts.length"
          class="one"
          :model-value="shownOne ?? ''"
          :options="handouts"
          :label="t('register.one')"
          @update:model-value="(v) => (picked = v)"
        />
      </div>
      <RegisterFilter v-if="filtering" :reg="reg" @rows="(r) => (only = r)" @close="unfilter" />
      <RegisterTable
        ref="table"
        v-model:at="at"
        v-model:chosen="chosen"
        :reg="reg"
        :filter="filter"
        :one="one"
        :only="only"
        :doors="doors"
        :may-look="mayLook"
      />
      <RegisterKey />
    </section>
    <aside v-if="next" class="first"><FirstSteps :next="next" @go="goOn" /></aside>
    <ClassSide v-if="beside" :reg="reg!" @look="(row) => (at = { row, column: 0 })" />
    <StudentPanel
      v-if="at"
      :class-id="classId"
      :row="at.row"
      :column="at.column"
      @close="at = null"
      @column="(k) => (at = { row: at!.row, column: k })"
    />
    <SidePanel v-if="chosen" :title="t('chosen.title', { n: chosen.length }, chosen.length)" @close="choose(false)">
      <ChosenActs
        v-if="chosen.length"
        :key="`${about} ${closing}`"
        :class-id="classId"
        :rows="chosen"
        :about="about"
        :closing="closing"
      />
      <p v-else class="quiet">{{ t('chosen.none') }}</p>
    </SidePanel>
    <TopUpPanel v-if="toppingUp" :class-id="classId" @close="toppingUp = false" @packed="toppedUp" />
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
.work.beside {
  grid-template-columns: minmax(0, 1fr) 560px;
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
  margin: 0 24px 8px 0;
}
.search {
  width: 190px;
  flex: none;
}
.filter {
  min-height: 26px;
}
.first {
  padding: 10px 20px;
  margin-top: 10px;
  border-left: 1px solid var(--thread);
}
.empty {
  padding: 48px 24px;
  display: grid;
  gap: 12px;
  justify-items: start;
  align-content: start;
}
@media (max-width: 700px) {
  .left {
    padding: 8px 0 0 16px;
  }
  .over {
    flex-wrap: wrap;
    gap: 8px;
  }
  .search,
  .one {
    flex: 1;
    width: auto;
    min-width: 0;
    min-height: 44px;
  }
}
@media (max-width: 1000px) {
  .work {
    grid-template-columns: minmax(0, 1fr);
  }
  .first {
    display: none;
  }
}
@media print {
  .work,
  .left {
    display: block;
    padding: 0;
  }
}
</style>
