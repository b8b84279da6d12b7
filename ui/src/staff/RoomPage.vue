<script setup lang="ts">
import { Button, Input, Segmented } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { useKeeping } from '@/parts/keeping'
import PatternField from '@/parts/PatternField.vue'
import PickOne from '@/parts/PickOne.vue'
import { sentence } from '@/tell'
import PackingSide from './PackingSide.vue'
import { useClass } from './theClass'

/** The room plan: what the class's places are, who may do what, and exactly what packing will do. */
const { cls, classId, mayPack } = useClass()
const { t } = useI18n()
const queries = useQueryClient()
const path = computed(() => ({ path: { classId: classId.value } }))
const queryKey = computed(() => ['room', classId.value])
const { data: room } = useQuery({
  queryKey,
  queryFn: () => data(api.GET('/classes/{classId}/room', { params: path.value })),
})

const eyes = ref<'staff' | 'student'>('staff')
const row = ref('')
const satchels = computed(
  () => room.value?.list.lines.filter((l) => l.purpose === 'satchel' && l.section !== 'to-change') ?? [],
)
const student = computed(() => satchels.value.find((l) => l.row === row.value) ?? satchels.value[0])
const shown = ref(false)
const few = computed(() => (shown.value ? satchels.value : satchels.value.slice(0, 5)))
const pockets = computed(() => room.value?.pockets ?? [])
const marks = computed(() => [...new Set(satchels.value.flatMap((l) => [l.apart, l.altered]).filter(Boolean))])
const place = (purpose: string) => room.value?.list.lines.find((l) => l.purpose === purpose)?.name ?? ''

const naming = ref(false)
const name = ref<Of<'Part'>[]>([])
const pocket = ref('')
const problem = ref('')
watch(room, (r) => r && !naming.value && (name.value = r.satchel), { immediate: true })
let began: Of<'Part'>[] = [] // the pattern that was looked at
watch(name, (p) => {
  if (!naming.value) return
  later('satchel', { body: { satchel: p }, of: classId.value })
})
function beginNaming() {
  began = room.value?.satchel ?? []
  naming.value = true
}
const { later, flush } = useKeeping<{ body: Of<'RoomChange'>; of: string }>((_, { body, of }) =>
  change({ ...body, was: began }, of),
)
async function change(body: Of<'RoomChange'>, of = classId.value) {
  problem.value = ''
  try {
    const next = await data(
      api.PATCH('/classes/{classId}/room', { params: { path: { classId: of } }, body, keepalive: true }),
    )
    began = next.satchel
    queries.setQueryData(['room', of], next)
    await queries.invalidateQueries({ queryKey: ['class', of] })
    return true
  } catch (e) {
    problem.value = sentence(e)
    return false
  }
}
async function addPocket() {
  if (!pocket.value.trim()) return
  if (await change({ add: [pocket.value] })) pocket.value = ''
}
const dropPocket = (id: string) => change({ remove: [id] })
async function before() {
  await flush()
  return !problem.value
}
</script>

<template>
  <section v-if="cls && !cls.students" class="empty">
    <h2>{{ t('room.empty') }}</h2>
    <p class="quiet">{{ t('room.empty-text') }}</p>
    <RouterLink :to="{ name: 'roster' }"
      ><Button type="primary">{{ t('today.go-list') }}</Button></RouterLink
    >
  </section>
  <div v-else-if="room && cls" class="work">
    <section class="left">
      <p class="lead">{{ cls.packed ? t('room.lead-packed') : t('room.lead') }}</p>
      <div class="eyes">
        <Segmented
          v-model:value="eyes"
          :options="[
            { value: 'staff', label: t('room.staff-eyes') },
            { value: 'student', label: t('room.student-eyes') },
          ]"
        />
        <PickOne
          v-if="eyes === 'student'"
          class="who"
          :model-value="student?.row ?? ''"
          :label="t('register.student')"
          :options="satchels.map((l) => ({ value: l.row, label: l.student }))"
          @update:model-value="(v) => (row = v)"
        />
      </div>
      <ul v-if="eyes === 'staff'" class="tree" data-tree="staff">
        <li>
          <span class="display top">{{ place('class') }}</span><span class="may">{{
            t('room.may-class', { staff: room.staff.map((s) => s.name).join(', ') })
          }}</span>
          <ul>
            <li>
              <b>{{ place('shelf') }}</b><span class="may">{{ t('room.may-shelf') }}</span>
            </li>
            <li>
              <b>{{ place('table') }}</b><span class="may">{{ t('room.may-table') }}</span>
            </li>
            <li>
              <b>{{ place('drawer') }}</b><span class="may">{{ t('room.may-drawer') }}</span>
            </li>
            <li>
              <b>{{ place('cloakroom') }}</b><span class="may">{{ t('room.may-cloakroom') }}</span>
              <ul>
                <li v-for="(l, i) in few" :key="l.row">
                  <bdi>{{ l.name }}</bdi><span v-if="l.section === 'needs-fixing'" class="may bad">{{
                    t('room.needs-fixing')
                  }}</span
                  ><span v-else-if="i === 0" class="may">{{ t('room.may-satchel') }}</span>
                  <ul v-if="pockets.length && i === 0">
                    <li v-for="p in pockets" :key="p.id">{{ p.name }}</li>
                  </ul>
                </li>
                <li v-if="satchels.length > 5" class="rest">
                  <button class="link" @click="shown = !shown">
                    {{ shown ? t('room.fewer') : t('room.more', { n: satchels.length - 5 }) }}
                  </button>
                </li>
              </ul>
            </li>
          </ul>
        </li>
      </ul>
      <ul v-else class="tree" data-tree="student">
        <li>
          <b>{{ place('shelf') }}</b><span class="may">{{ t('room.may-shelf-student') }}</span>
        </li>
        <li>
          <b>{{ place('table') }}</b><span class="may">{{ t('room.may-table-student') }}</span>
        </li>
        <li v-if="student">
          <b
            ><bdi>{{ student.name }}</bdi></b
          ><span class="may">{{
            t('room.may-satchel-student', { staff: room.staff.map((s) => s.name).join(', ') })
          }}</span>
          <ul v-if="pockets.length">
            <li v-for="p in pockets" :key="p.id">{{ p.name }}</li>
          </ul>
        </li>
        <li class="rest faint">{{ t('room.nothing-else') }}</li>
      </ul>
      <template v-if="mayPack">
        <h3>{{ t('room.satchels-called') }}</h3>
        <button v-if="!naming" class="plain u" @click="beginNaming">{{ student?.name ?? '' }}</button>
        <div v-else class="pop">
          <PatternField
            v-model="name"
            :columns="cls.columns.map((c) => c.field).filter((f) => f !== 'h:title' && f !== 'h:date')"
          />
          <p v-for="m in marks" :key="m" class="quiet">{{ t(`naming.${m}`) }}</p>
          <Button size="small" @click="flush().then(() => (naming = false))">{{ t('act.done') }}</Button>
        </div>
        <h3>{{ t('room.pockets') }}</h3>
        <p class="quiet help">{{ t('room.pockets-help') }}</p>
        <div class="pockets">
          <span v-for="p in pockets" :key="p.id" class="chip soft"
            >{{ p.name }}
            <button class="link" :aria-label="t('room.drop-pocket', { name: p.name })" @click="dropPocket(p.id)">
              ×
            </button></span
          >
          <form @submit.prevent="addPocket">
            <Input
              v-model:value="pocket"
              size="small"
              :placeholder="t('room.pocket-example')"
              :aria-label="t('room.add-pocket')"
              :maxlength="80"
            />
            <Button size="small" html-type="submit" :disabled="!pocket.trim()">{{ t('room.add-pocket') }}</Button>
          </form>
        </div>
        <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
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
.work {
  display: grid;
  grid-template-columns: minmax(380px, 468px) minmax(0, 1fr);
  min-height: 0;
}
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
.tree,
.tree ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
.tree ul {
  margin-left: 7px;
  border-left: 2px solid var(--belt-done);
}
.tree ul li {
  position: relative;
  padding-left: 18px;
}
.tree ul li::before {
  content: '';
  position: absolute;
  left: 0;
  top: 14px;
  width: 11px;
  border-top: 2px solid var(--belt-done);
}
.tree li {
  padding: 2px 0;
}
.tree b {
  font-weight: 650;
}
.top {
  font-size: 17px;
}
.may {
  color: var(--ink-2);
  font-size: 14px;
  margin-left: 10px;
}
.may.bad {
  color: var(--brick);
}
.rest {
  font-size: 14px;
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
.pockets {
  display: flex;
  flex-wrap: wrap;
  gap: 7px;
  align-items: center;
}
.pockets form {
  display: flex;
  gap: 6px;
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
    overflow-y: auto;
  }
}
</style>
