<script setup lang="ts">
import { ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import PatternField from '@/parts/PatternField.vue'

/** Levels of a path, outermost first: each is a name made of columns and text. */
const props = defineProps<{
  levels: Of<'Part'>[][]
  columns: string[]
  example: string[]
  label: string
}>()
const emit = defineEmits<{ change: [levels: Of<'Part'>[][]] }>()
const { t } = useI18n()
const mine = ref<Of<'Part'>[][]>([])
watch(
  () => props.levels,
  (l) => {
    // What is typed here just now isn't taken back by the answer to what was typed before.
    if (JSON.stringify(l) !== JSON.stringify(full())) mine.value = l.map((x) => [...x])
  },
  { immediate: true },
)
function full() {
  return mine.value.filter((l) => l.length)
}
function set(i: number, parts: Of<'Part'>[]) {
  mine.value = mine.value.map((l, k) => (k === i ? parts : l))
  emit('change', full())
}
const add = () => (mine.value = [...mine.value, []])
function remove(i: number) {
  mine.value = mine.value.filter((_, k) => k !== i)
  emit('change', full())
}
</script>

<template>
  <div class="levels">
    <div v-for="(l, i) in mine" :key="i" class="level">
      <div class="top">
        <span class="quiet">{{ t('levels.nth', { label, n: i + 1 }) }}</span>
        <span v-if="example[i]" class="faint">{{ t('levels.now', { name: example[i] }) }}</span>
        <button class="link" @click="remove(i)">{{ t('levels.remove') }}</button>
      </div>
      <PatternField :model-value="l" :columns="columns" @update:model-value="(p) => set(i, p)" />
    </div>
    <button v-if="mine.length < 6" class="link" @click="add">{{ t('levels.add', { label }) }}</button>
  </div>
</template>

<style scoped>
.levels {
  display: grid;
  gap: 8px;
  justify-items: stretch;
}
.top {
  display: flex;
  gap: 10px;
  align-items: baseline;
  font-size: 13.5px;
  margin-bottom: 3px;
}
.link {
  justify-self: start;
}
</style>
