<script setup lang="ts">
import { Button, Checkbox, Input } from 'ant-design-vue'
import { computed, nextTick, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'

/** The folders every satchel has: added, renamed, put in order by hand or by name. */
const props = defineProps<{
  room: Of<'Room'>
  may: boolean
  change: (body: Of<'RoomChange'>) => Promise<string>
}>()
const { t } = useI18n()
const fresh = ref('')
const editing = ref('')
const typed = ref('')
const problem = ref('')
const dragged = ref('')
const shown = computed(() =>
  props.room.sorted
    ? [...props.room.pockets].sort((a, b) => a.name.localeCompare(b.name, undefined, { numeric: true }))
    : props.room.pockets,
)
async function keep(body: Of<'RoomChange'>) {
  problem.value = await props.change(body)
  return !problem.value
}
async function add() {
  const name = fresh.value // what is typed meanwhile is the next one's
  if (name.trim() && (await keep({ pockets: { add: [name] } })) && fresh.value === name) fresh.value = ''
}
function edit(p: Of<'Pocket'>) {
  editing.value = p.id
  typed.value = p.name
  void nextTick(() => document.querySelector<HTMLInputElement>('.pockets .name input')?.focus())
}
async function rename(p: Of<'Pocket'>) {
  if (editing.value !== p.id) return
  if (!typed.value.trim() || typed.value === p.name) return (editing.value = '')
  if (await keep({ pockets: { rename: [{ id: p.id, name: typed.value, was: p.name }] } })) editing.value = ''
}
function order(id: string, to: number) {
  const all = props.room.pockets
  const from = all.findIndex((p) => p.id === id)
  if (from < 0 || to < 0 || to >= all.length || to === from) return
  const next = all.filter((p) => p.id !== id)
  next.splice(to, 0, all[from])
  void keep({ pockets: { order: next.map((p) => p.id) } })
}
const at = (id: string) => props.room.pockets.findIndex((p) => p.id === id)
function key(e: KeyboardEvent, id: string) {
  const step = e.key === 'ArrowLeft' ? -1 : e.key === 'ArrowRight' ? 1 : 0
  if (!step || !e.altKey || props.room.sorted) return
  e.preventDefault()
  order(id, at(id) + step)
}
</script>

<template>
  <div>
    <div class="pockets">
      <span
        v-for="p in shown"
        :key="p.id"
        class="chip soft"
        :data-pocket="p.name"
        :draggable="may && !room.sorted"
        @dragstart="dragged = p.id"
        @dragover.prevent
        @drop.prevent="order(dragged, at(p.id))"
      >
        <form v-if="editing === p.id" class="name" @submit.prevent="rename(p)">
          <Input
            v-model:value="typed"
            size="small"
            :aria-label="t('pocket.rename', { name: p.name })"
            :maxlength="80"
            @blur="rename(p)"
            @keydown.esc="editing = ''"
          />
        </form>
        <template v-else>
          <button
            v-if="may"
            class="plain"
            :title="t('pocket.keys')"
            :aria-label="t('pocket.rename', { name: p.name })"
            @click="edit(p)"
            @keydown="key($event, p.id)"
          >
            {{ p.name }}
          </button>
          <template v-else>{{ p.name }}</template>
          <button
            v-if="may"
            class="link"
            :aria-label="t('room.drop-pocket', { name: p.name })"
            @click="keep({ pockets: { remove: [p.id] } })"
          >
            ×
          </button>
        </template>
      </span>
      <form v-if="may" @submit.prevent="add">
        <Input
          v-model:value="fresh"
          size="small"
          :placeholder="t('room.pocket-example')"
          :aria-label="t('room.add-pocket')"
          :maxlength="80"
        />
        <Button size="small" html-type="submit" :disabled="!fresh.trim()">{{ t('room.add-pocket') }}</Button>
      </form>
    </div>
    <Checkbox
      v-if="may && room.pockets.length > 1"
      class="sorted"
      :checked="room.sorted"
      @update:checked="(on: boolean) => keep({ to: { sorted: on } })"
      >{{ t('pocket.sorted') }}</Checkbox
    >
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
  </div>
</template>

<style scoped>
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
.chip .link {
  min-width: 24px;
  min-height: 24px;
}
.sorted {
  margin-top: 5px;
  font-size: 14px;
}
</style>
