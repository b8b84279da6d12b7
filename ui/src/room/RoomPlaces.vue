<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { useFieldName } from '@/parts/fieldName'
import { useClass } from '@/class/theClass'
import { useActing } from '@/parts/acting'
import { moment } from '@/when'
import { usePlacePens } from './placePens'
import RoomPlace from './RoomPlace.vue'

/** The class's places in the teacher's order: dragged, moved by keyboard, opened to be changed. */
const props = defineProps<{
  room: Of<'Room'>
  columns: string[]
  may: boolean
  change: (body: Of<'RoomChange'>) => Promise<string>
}>()
const { t } = useI18n()
const fieldName = useFieldName()
const { cls, classId } = useClass()
const packed = computed(() => !!cls.value?.packed)
const { busy, problem: refused, act } = useActing()
const pens = usePlacePens(classId, act)
const editing = ref('') // id, or "new"
const problem = ref('')
const dragged = ref('')
const over = ref('')

// Each after the one it is in.
const lines = computed(() => {
  const out: { place: Of<'Place'>; depth: number }[] = []
  const add = (under: string, depth: number) => {
    for (const p of props.room.places)
      if (p.under === under && depth < 9) {
        out.push({ place: p, depth })
        add(p.id, depth + 1)
      }
  }
  add('', 0)
  return out
})
// The usual places that were taken out can come back.
const lacking = computed(() => (['shelf', 'table'] as const).filter((u) => !props.room.places.some((p) => p.id === u)))
function says(p: Of<'Place'>): string {
  if (p.handIn) return t('place.says-hand-in')
  if (p.id === 'cloakroom') return t('place.is-cloakroom')
  if (p.for === 'staff') return t('place.is-staff')
  const level = t(`tree.level-${p.level}`)
  if (p.for === 'team') return t('place.is-team', { level, column: fieldName(p.teams) })
  return t(`place.is-${p.for}`, { level })
}
async function keep(body: Of<'RoomChange'>) {
  problem.value = await props.change(body)
  if (!problem.value) editing.value = ''
}
function edit(id: string) {
  problem.value = ''
  editing.value = editing.value === id ? '' : id
}
// Places that are in one are in their own order.
function order(id: string, to: number) {
  const all = props.room.places
  const mine = all.find((p) => p.id === id)
  const beside = all.filter((p) => p.under === mine?.under)
  const from = beside.findIndex((p) => p.id === id)
  if (!mine || to < 0 || to >= beside.length || to === from) return
  const next = beside.filter((p) => p.id !== id)
  next.splice(to, 0, mine)
  const rest = all.filter((p) => p.under !== mine.under)
  void keep({ places: { order: [...next, ...rest].map((p) => p.id) } })
}
const place = (p: Of<'Place'>) => props.room.places.filter((x) => x.under === p.under).findIndex((x) => x.id === p.id)
function key(e: KeyboardEvent, p: Of<'Place'>) {
  const step = e.key === 'ArrowUp' ? -1 : e.key === 'ArrowDown' ? 1 : 0
  if (!step || !e.altKey) return
  e.preventDefault()
  order(p.id, place(p) + step)
}
function drop(on: Of<'Place'>) {
  const mine = props.room.places.find((p) => p.id === dragged.value)
  if (mine && mine.under === on.under) order(mine.id, place(on))
  dragged.value = over.value = ''
}
</script>

<template>
  <div>
    <ul class="places" :aria-label="t('place.all')">
      <li
        v-for="{ place: p, depth } in lines"
        :key="p.id"
        :style="{ marginLeft: `${depth * 20}px` }"
        :class="{ over: over === p.id }"
        :data-place="p.called"
        :draggable="may && editing !== p.id"
        @dragstart="dragged = p.id"
        @dragover.prevent="over = p.id"
        @dragleave="over = ''"
        @drop.prevent="drop(p)"
        @dragend="dragged = over = ''"
      >
        <button
          v-if="may"
          class="plain one"
          :aria-expanded="editing === p.id"
          :title="t('place.keys')"
          @click="edit(p.id)"
          @keydown="key($event, p)"
        >
          <b>{{ p.called }}</b><span class="says">{{ says(p) }}</span>
        </button>
        <span v-else class="one"
          ><b>{{ p.called }}</b
          ><span class="says">{{ says(p) }}</span></span
        >
        <p v-if="p.closed || (may && packed && p.written)" class="shut">
          <span v-if="p.closed" class="quiet">{{
            t('place.closed-since', { when: moment(Date.parse(p.closed.at)), who: p.closed.by })
          }}</span>
          <button
            v-if="may && p.written"
            class="link"
            :disabled="busy"
            :data-act="p.closed ? 'open-place' : 'close-place'"
            :title="t('pens.down-help')"
            @click="pens(p.id, !p.closed)"
          >
            {{ t(`place.${p.closed ? 'open' : 'close'}-${p.for === 'student' ? 'each' : 'now'}`) }}
          </button>
        </p>
        <RoomPlace
          v-if="editing === p.id"
          :place="p"
          :places="room.places"
          :columns="columns"
          :problem="problem"
          @change="(to, was) => keep({ places: { change: [{ id: p.id, to, was }] } })"
          @remove="keep({ places: { remove: [p.id] } })"
          @close="editing = ''"
        />
      </li>
    </ul>
    <p v-if="refused" class="bad" role="alert">{{ refused }}</p>
    <RoomPlace
      v-if="editing === 'new'"
      :places="room.places"
      :columns="columns"
      :problem="problem"
      @add="(to) => keep({ places: { add: [to] } })"
      @close="editing = ''"
    />
    <template v-else>
      <p v-if="problem && !editing" class="bad" role="alert">{{ problem }}</p>
      <div v-if="may" class="adding">
        <Button size="small" data-act="add-place" @click="edit('new')">{{ t('place.add') }}</Button>
        <button v-for="u in lacking" :key="u" class="link" @click="keep({ places: { add: [{ usual: u }] } })">
          {{ t('place.add-usual', { name: t(`purpose.${u}`) }) }}
        </button>
      </div>
    </template>
  </div>
</template>

<style scoped>
.places {
  list-style: none;
  margin: 0 0 6px;
  padding: 0;
}
.shut {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 12px;
  margin: 0 0 4px;
  padding-left: 6px;
  font-size: 13.5px;
}
.shut button {
  min-height: 24px;
}
.one {
  display: flex;
  align-items: baseline;
  gap: 10px;
  width: 100%;
  text-align: left;
  padding: 3px 6px;
  border-radius: 6px;
}
button.one:hover,
button.one[aria-expanded='true'] {
  background: var(--leather-soft);
}
.one b {
  font-weight: 650;
  white-space: nowrap;
}
.says {
  color: var(--ink-2);
  font-size: 14px;
}
.adding {
  display: flex;
  gap: 14px;
  align-items: center;
}
.over > .one {
  box-shadow: 0 -2px 0 var(--leather);
}
</style>
