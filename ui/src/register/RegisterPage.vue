<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { plainKey, useKeys } from '@/keys'
import TagMark from '@/parts/TagMark.vue'
import { useReasons } from '@/reasons'
import { tellDone, tellProblem } from '@/tell'
import { past, wall } from '@/when'
import SidePanel from '@/parts/SidePanel.vue'
import ChosenActs from './ChosenActs.vue'
import KeyHelp from '@/class/KeyHelp.vue'
import RegisterTable, { type At } from './RegisterTable.vue'
import StudentPanel from './StudentPanel.vue'
import TopUpPanel from '@/packing/TopUpPanel.vue'
import { useClass } from '@/class/theClass'

/** The Register: students down, satchel and handouts across. */
const { cls, classId, mayPack, mayLook } = useClass()
const { t } = useI18n()
const { reasonText } = useReasons()
const router = useRouter()
const route = useRoute()
const { data: reg } = useQuery({
  queryKey: computed(() => keys.register(classId.value)),
  queryFn: () => data(api.GET('/classes/{classId}/register', { params: { path: { classId: classId.value } } })),
})
const filter = ref('')
const at = ref<At | null>(null)
watch(at, (a) => a && (toppingUp.value = false))
const table = useTemplateRef<{ move(down: number, across: number): void }>('table')
const chosen = ref<string[] | null>(null)
function choose(on: boolean) {
  chosen.value = on ? [] : null
  at.value = null
  toppingUp.value = false
}
watch(at, (a) => a && (chosen.value = null))
const search = useTemplateRef<{ focus(): void }>('search')
const helping = ref(false)
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
function pressed(e: KeyboardEvent) {
  if (e.key === 'Escape') {
    if (helping.value) helping.value = false
    else if (toppingUp.value) toppingUp.value = false
    else if (chosen.value) chosen.value = null
    else if (at.value) at.value = null
    return
  }
  if (!plainKey(e)) return
  if (e.key === '/') {
    e.preventDefault()
    search.value?.focus()
  } else if (e.key === 'n' && mayPack.value) void newHandout()
  else if (e.key === 't' && mayPack.value && reg.value?.missing) topUp()
  else if (e.key === '?') helping.value = true
  else if (/^Arrow/.test(e.key)) {
    e.preventDefault()
    const down = { ArrowDown: 1, ArrowUp: -1 }[e.key] ?? 0
    const across = { ArrowRight: 1, ArrowLeft: -1 }[e.key] ?? 0
    table.value?.move(down, across)
  }
}
useKeys(pressed)

const missing = computed(() => reg.value?.missing ?? 0)
watch(missing, (n, before) => {
  if (before && !n && asked) tellDone(t('register.topped-up'))
  asked &&= n > 0
})
function notBegun(c: Of<'RegisterColumn'>) {
  return c.states.filter((s) => s === 'shared' || s === 'opened').length
}
const latest = computed(() => {
  const cs = reg.value?.columns.filter((c) => c.handout && c.due && !past(c.due)) ?? []
  return cs[cs.length - 1]
})
const key = ['not-made', 'not-shared', 'shared', 'opened', 'working', 'stuck'] as const
</script>

<template>
  <div class="work" :class="{ wide: !at && !toppingUp && !chosen }">
    <Teleport defer to="#head-acts">
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
              <a href="#" class="em" @click.prevent="at = mayLook ? { row: reg.stuck[0].row, column: 0 } : null"
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
      <RegisterTable
        ref="table"
        v-model:at="at"
        v-model:chosen="chosen"
        :reg="reg"
        :filter="filter"
        :may-look="mayLook"
      />
      <div class="key">
        <span v-for="s in key" :key="s"
          ><TagMark :state="s" :fill="s === 'working' ? 60 : 0" bare />{{ t(`state.${s}`) }}</span
        >
        <span><b aria-hidden="true">–</b>{{ t('state.out') }}</span>
        <span class="grow" />
        <button class="link" @click="helping = true">{{ t('keys.all') }}</button>
      </div>
    </section>
    <StudentPanel
      v-if="at"
      :class-id="classId"
      :row="at.row"
      :column="at.column"
      @close="at = null"
      @column="(k) => (at = { row: at!.row, column: k })"
    />
    <SidePanel v-if="chosen" :title="t('chosen.title', { n: chosen.length }, chosen.length)" @close="choose(false)">
      <ChosenActs v-if="chosen.length" :class-id="classId" :rows="chosen" />
      <p v-else class="quiet">{{ t('chosen.none') }}</p>
    </SidePanel>
    <TopUpPanel v-if="toppingUp" :class-id="classId" @close="toppingUp = false" @packed="toppedUp" />
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
