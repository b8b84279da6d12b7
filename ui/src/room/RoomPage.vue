<script setup lang="ts">
import { Button, Checkbox, Segmented } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { answered } from '@/api/queries'
import { keys } from '@/api/keys'
import { useKeeping } from '@/parts/keeping'
import PatternField from '@/parts/PatternField.vue'
import PickOne from '@/parts/PickOne.vue'
import { sentence } from '@/tell'
import PackingSide from '@/packing/PackingSide.vue'
import PickFolder from '@/things/PickFolder.vue'
import LeftoverPlaces from './LeftoverPlaces.vue'
import PlanFile from './PlanFile.vue'
import RoomOpening from './RoomOpening.vue'
import RoomFurther from './RoomFurther.vue'
import RoomPlaces from './RoomPlaces.vue'
import RoomPockets from './RoomPockets.vue'
import RoomTree from './RoomTree.vue'
import { useClass } from '@/class/theClass'

/** The room plan: what the class's places are, who may do what, and exactly what packing will do. */
const { cls, classId, mayPack } = useClass()
const { t } = useI18n()
const queries = useQueryClient()
const path = computed(() => ({ path: { classId: classId.value } }))
const queryKey = computed(() => keys.room(classId.value))
const { data: room } = useQuery({
  queryKey,
  queryFn: () => data(api.GET('/classes/{classId}/room', { params: path.value })),
})

const view = ref<'plan' | 'staff' | 'assistant' | 'student'>('plan')
const row = ref('')
const satchels = computed(
  () => room.value?.list.lines.filter((l) => l.purpose === 'satchel' && l.section !== 'to-change') ?? [],
)
const student = computed(() => satchels.value.find((l) => l.row === row.value) ?? satchels.value[0])
const eyes = computed(() => (view.value === 'student' ? (student.value?.row ?? '') : view.value))
const examples = computed(() =>
  [satchels.value[0], satchels.value[Math.floor(satchels.value.length / 2)], satchels.value.at(-1)].filter(
    (l, i, all) => l && all.indexOf(l) === i,
  ),
)
const marks = computed(() => [...new Set(satchels.value.flatMap((l) => [l.apart, l.altered]).filter(Boolean))])
const columns = computed(() => cls.value?.columns.map((c) => c.field) ?? [])
const forSatchels = computed(() => columns.value.filter((f) => f !== 'h:title' && f !== 'h:original' && f !== 'h:date'))

const naming = ref(false)
const name = ref<Of<'Part'>[]>([])
const problem = ref('')
const problemAt = ref('')
const browsing = ref(false)
const more = ref(false)
watch(
  room,
  (r) => {
    if (!r) return
    if (!naming.value) name.value = r.satchel
    if (r.base || r.path.length || r.within.length) more.value = true
  },
  { immediate: true },
)
let began: Of<'Part'>[] = [] // the pattern that was looked at
watch(name, (p) => {
  if (!naming.value) return
  later('satchel', { body: { to: { satchel: p } }, of: classId.value })
})
function beginNaming() {
  began = room.value?.satchel ?? []
  naming.value = true
}
const { later, flush } = useKeeping<{ body: Of<'RoomChange'>; of: string }>((field, { body, of }) =>
  save(field === 'satchel' ? { ...body, was: { satchel: began } } : body, of, field),
)
/** Sends a change; answers in words why it was refused. */
async function send(body: Of<'RoomChange'>, of = classId.value): Promise<string> {
  try {
    const next = await answered(queries, keys.room(of), () =>
      data(api.PATCH('/classes/{classId}/room', { params: { path: { classId: of } }, body, keepalive: true })),
    )
    began = next.satchel
    await queries.invalidateQueries({ queryKey: keys.class(of) })
    return ''
  } catch (e) {
    void queries.invalidateQueries({ queryKey: keys.room(of) })
    return sentence(e)
  }
}
async function save(body: Of<'RoomChange'>, of = classId.value, at = '') {
  problem.value = await send(body, of)
  problemAt.value = at
}
const put = (field: string, to: Of<'RoomParts'>) => later(field, { body: { to }, of: classId.value })
const choose = (id: string) => send({ to: { base: id }, was: { base: room.value?.base ?? '' } })
async function before() {
  await flush()
  return !problem.value
}
async function readPlan(body: Of<'PlanFile'>) {
  await flush()
  await answered(queries, queryKey.value, () =>
    data(api.POST('/classes/{classId}/room/file', { params: path.value, body })),
  )
  await queries.invalidateQueries({ queryKey: keys.class(classId.value) })
}
const at = (field: string) => problem.value && problemAt.value === field
const liesIn = computed(() => {
  const r = room.value
  if (!r) return ''
  return [r.base ? r.baseName || t('room.base-away') : t('room.base-top'), ...(r.levels ?? []), r.folder].join(' › ')
})
</script>

<template>
  <section v-if="cls && !cls.students" class="empty">
    <h2>{{ t('room.empty') }}</h2>
    <p class="quiet">{{ t('room.empty-text') }}</p>
    <RouterLink :to="{ name: 'roster' }"
      ><Button type="primary">{{ t('today.go-list') }}</Button></RouterLink
    >
  </section>
  <div v-else-if="room && cls" class="work panes">
    <section class="left">
      <p class="lead">{{ cls.packed ? t('room.lead-packed') : t('room.lead') }}</p>
      <div class="eyes">
        <Segmented
          v-model:value="view"
          :options="[
            { value: 'plan', label: t('room.plan') },
            { value: 'staff', label: t('room.staff-eyes') },
            { value: 'assistant', label: t('room.assistant-eyes') },
            { value: 'student', label: t('room.student-eyes') },
          ]"
        />
        <PickOne
          v-if="view === 'student'"
          class="who"
          :model-value="student?.row ?? ''"
          :label="t('register.student')"
          :options="satchels.map((l) => ({ value: l.row, label: l.student }))"
          @update:model-value="(v) => (row = v)"
        />
      </div>
      <template v-if="view !== 'plan'">
        <RoomTree v-if="eyes" :key="eyes" :eyes="eyes" :digest="room.list.digest" />
        <p class="faint after">{{ t(view === 'student' ? 'room.nothing-else' : 'room.as-wanted') }}</p>
      </template>
      <template v-else>
        <RoomPlaces :room="room" :columns="columns" :may="mayPack" :change="send" />
        <h3>{{ t('room.satchels-called') }}</h3>
        <template v-if="!naming">
          <button v-if="mayPack" class="plain u" @click="beginNaming">{{ student?.name ?? '' }}</button>
          <span v-else>{{ student?.name ?? '' }}</span>
        </template>
        <div v-else class="pop">
          <PatternField v-model="name" :columns="forSatchels" />
          <p class="quiet">
            {{ t('room.examples') }}
            <template v-for="(l, i) in examples" :key="l!.row"
              ><template v-if="i">; </template><bdi>{{ l!.name }}</bdi></template
            >
          </p>
          <p v-for="m in marks" :key="m" class="quiet">{{ t(`naming.${m}`) }}</p>
          <Button size="small" @click="flush().then(() => (naming = false))">{{ t('act.done') }}</Button>
        </div>
        <p v-if="at('satchel')" class="bad" role="alert">{{ problem }}</p>
        <h3>{{ t('room.pockets') }}</h3>
        <p class="quiet help">{{ t('room.pockets-help') }}</p>
        <RoomPockets :room="room" :may="mayPack" :change="send" />
        <RoomOpening />
        <h3>{{ t('room.lies-in') }}</h3>
        <p data-lies-in>
          {{ liesIn }}
          <button v-if="mayPack && !browsing" class="link" data-act="browse" @click="browsing = true">
            {{ t('room.elsewhere') }}
          </button>
        </p>
        <p class="quiet" data-owner>
          {{ t('room.owned-by', { name: room.owner }) }}
          <button
            v-if="mayPack"
            class="link"
            data-act="pass-on"
            @click="save({ to: { school: !room.school } }, classId, 'school')"
          >
            {{ t(room.school ? 'room.to-teacher' : 'room.to-school') }}
          </button>
        </p>
        <p v-if="at('school')" class="bad" role="alert">{{ problem }}</p>
        <PickFolder v-if="browsing" :choose="choose" @close="browsing = false" />
        <template v-if="mayPack">
          <button v-if="!more" class="link" data-act="more-plan" @click="more = true">{{ t('room.more-plan') }}</button>
          <RoomFurther
            v-else
            :room="room"
            :columns="forSatchels"
            :problem="problemAt !== 'satchel' && problemAt !== 'school' ? problem : ''"
            @put="put"
          />
          <Checkbox
            class="step"
            data-act="keep-in-step"
            :checked="!!room.keepInStep"
            @update:checked="(on: boolean) => save({ to: { keepInStep: on } })"
            >{{ t('room.keep-in-step') }}</Checkbox
          >
          <p class="quiet help">
            {{ room.keepInStep ? t('room.in-step-by', { name: room.keepInStep }) : t('room.in-step-help') }}
          </p>
        </template>
        <h3>{{ t('plan-file.title') }}</h3>
        <PlanFile
          :columns="forSatchels"
          :saved="`/api/classes/${classId}/room/file`"
          :read="readPlan"
          words="plan-file"
        />
        <LeftoverPlaces :digest="room.list.digest" />
      </template>
    </section>
    <PackingSide
      :list="room.list"
      main="satchel"
      :packed="cls.packed"
      ready
      :before="before"
      :send="(body) => api.POST('/classes/{classId}/room/pack', { params: path, body })"
      :refresh="() => queries.invalidateQueries({ queryKey })"
    />
  </div>
</template>

<style scoped>
.left {
  padding: 14px 26px 20px 24px;
  overflow-y: auto;
}
.lead {
  font-size: 16px;
  margin-bottom: 12px;
}
.eyes {
  display: flex;
  gap: 10px;
  margin-bottom: 10px;
  flex-wrap: wrap;
}
.who {
  min-width: 180px;
}
.after {
  font-size: 14px;
  margin-top: 8px;
}
.step {
  display: flex;
  margin-top: 12px;
}
.u {
  border-bottom: 2px solid var(--belt-done) !important;
  font-weight: 600;
  color: var(--leather-2) !important;
}
.pop {
  display: grid;
  gap: 8px;
  justify-items: start;
}
.help {
  font-size: 14px;
  margin-bottom: 6px;
}
.empty {
  padding: 48px 24px;
  display: grid;
  gap: 12px;
  justify-items: start;
  align-content: start;
}
@media (max-width: 1000px) {
  .left {
    overflow: visible;
    padding: 12px 16px 16px;
  }
}
[data-act='more-plan'] {
  min-height: 24px;
}
</style>
