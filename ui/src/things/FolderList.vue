<script setup lang="ts">
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { plainName } from '@/parts/plainName'
import type { Of } from '@/api/client'
import { me } from '@/me'
import { ago, exact } from '@/when'
import AddFiles from './AddFiles.vue'
import FillBar from '@/parts/FillBar.vue'
import ArrangeBar from './ArrangeBar.vue'
import { weight } from './weight'

/** What is in a folder, and a way to add to it where that is allowed. */
const props = defineProps<{ thing: Of<'Thing'> }>()
const emit = defineEmits<{ changed: [] }>()
const { t } = useI18n()
const may = computed(() => props.thing.level === 'edit' || props.thing.level === 'owner')
const adder = useTemplateRef<InstanceType<typeof AddFiles>>('adder')
const dragging = ref(false)
function drop(e: DragEvent) {
  dragging.value = false
  if (may.value) void adder.value?.add(e.dataTransfer?.files)
}
// Folders first; names as people order them, 2 before 10.
const order = new Intl.Collator(me.value?.language, { numeric: true })
const children = computed(() =>
  [...props.thing.children].sort(
    (a, b) => Number(b.kind === 'folder') - Number(a.kind === 'folder') || order.compare(a.name, b.name),
  ),
)
// What is chosen to be named, moved or binned; Shift takes all between.
const chosen = ref<string[]>([])
const picked = computed(() => props.thing.children.filter((x) => chosen.value.includes(x.id)))
let last = ''
watch(
  () => props.thing.id,
  () => (chosen.value = []),
)
function choose(id: string, e: MouseEvent) {
  const all = children.value.filter((x) => x.arrange).map((x) => x.id)
  const [a, b] = [all.indexOf(last), all.indexOf(id)]
  const between = e.shiftKey && a >= 0 ? all.slice(Math.min(a, b), Math.max(a, b) + 1) : [id]
  const on = !chosen.value.includes(id)
  chosen.value = on ? [...new Set([...chosen.value, ...between])] : chosen.value.filter((x) => !between.includes(x))
  last = id
}
function arranged() {
  chosen.value = []
  emit('changed')
}
const kind = (x: Of<'ThingTag'>) =>
  x.kind === 'folder'
    ? t('thing.folder')
    : x.kind === 'pointer'
      ? t('thing.pointer')
      : x.text
        ? t('thing.text')
        : weight(x.size)
</script>

<template>
  <div
    class="folder"
    :class="{ dragging }"
    @dragover.prevent="dragging = may"
    @dragleave="dragging = false"
    @drop.prevent="drop"
  >
    <AddFiles v-if="may" ref="adder" :folder="thing.id" @added="$emit('changed')" />
    <p v-if="thing.filled" class="quiet filled" :class="{ near: thing.filled.used > 0.9 * thing.filled.most }">
      <FillBar :part="thing.filled.used / thing.filled.most" :near="thing.filled.used > 0.9 * thing.filled.most" />
      {{ t('thing.filled', { used: weight(thing.filled.used), most: weight(thing.filled.most) }) }}
    </p>
    <ArrangeBar v-if="picked.length" :chosen="picked" :folder="thing" @done="arranged" @clear="chosen = []" />
    <p v-if="!thing.children.length" class="quiet none">{{ may ? t('thing.empty-add') : t('thing.empty') }}</p>
    <ul>
      <li v-for="x in children" :key="x.id" :class="{ on: chosen.includes(x.id) }">
        <input
          v-if="x.arrange"
          type="checkbox"
          :checked="chosen.includes(x.id)"
          :aria-label="t('arrange.choose', { name: x.name })"
          @click="choose(x.id, $event)"
        />
        <span v-else class="box" />
        <RouterLink :to="`/things/${x.id}`" class="name"
          ><bdi>{{ plainName(x.name) }}</bdi></RouterLink
        >
        <span class="quiet">{{ kind(x) }}</span>
        <span class="quiet" :title="exact(Date.parse(x.changedAt))">{{
          x.kind === 'folder' ? '' : `${x.byMe ? t('thing.you') : x.changedBy}, ${ago(Date.parse(x.changedAt), t)}`
        }}</span>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.folder {
  padding: 6px 8px 20px;
  margin: 0 -8px;
  border-radius: 8px;
}
.dragging {
  background: var(--leather-soft);
}
ul {
  list-style: none;
  margin: 14px 0 0;
  padding: 0;
  border-top: 1.5px solid var(--thread);
}
li {
  display: grid;
  grid-template-columns: 22px minmax(0, 1fr) 140px 220px;
  gap: 12px;
  align-items: center;
  padding: 9px 2px;
  border-bottom: 1px solid var(--thread-2);
}
.on {
  background: var(--leather-soft);
}
.name {
  font-weight: 600;
  overflow-wrap: anywhere;
}
.none {
  margin-top: 14px;
}
.filled {
  margin: 10px 2px 0;
  font-size: 14px;
}
.filled.near {
  color: var(--brass-text);
}
@media (max-width: 760px) {
  li {
    grid-template-columns: 26px minmax(0, 1fr) auto;
  }
  li span:last-child {
    grid-column: 2 / 4;
    font-size: 14px;
  }
}
</style>
