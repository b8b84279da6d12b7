<script setup lang="ts">
import { useI18n } from 'vue-i18n'

/** What a line's student can do with what they get: another than the others where that is said. */
defineProps<{ level: string; usual?: string; name: string; mayChange: boolean }>()
const emit = defineEmits<{ level: [to: string] }>()
const { t } = useI18n()
const changed = (e: Event) => emit('level', (e.target as HTMLSelectElement).value)
</script>

<template>
  <select
    v-if="usual && mayChange"
    class="one"
    :class="{ odd: level !== usual }"
    :value="level"
    :aria-label="t('list.level-of', { name })"
    data-act="level-of"
    @change="changed"
  >
    <option v-for="l in ['read', 'comment', 'edit']" :key="l" :value="l">{{ t(`level.${l}`) }}</option>
  </select>
  <span v-else :class="{ odd: usual && level !== usual }">{{ t(`level.${level}`) }}</span>
</template>

<style scoped>
.one {
  font: inherit;
  color: inherit;
  border: 0;
  border-radius: 4px;
  background: none;
  padding: 0 2px;
  appearance: none;
  min-height: 24px;
  max-width: 100%;
  text-align: right;
  text-align-last: right;
  cursor: pointer;
}
.one:hover,
.one:focus-visible {
  appearance: auto;
  background: var(--sheet);
}
.odd {
  color: var(--brass-text);
  font-weight: 700;
}
</style>
