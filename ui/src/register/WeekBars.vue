<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { weekday } from '@/when'

/** How much a student wrote on each of the last days, as small bars. */
const props = defineProps<{ week: number[]; days: string[] }>()
const { t } = useI18n()
const tall = computed(() => Math.max(30, ...props.week))
</script>

<template>
  <span class="week" role="img" :aria-label="t('register.week-words', { n: week.reduce((a, b) => a + b, 0) })">
    <i
      v-for="(v, d) in week"
      :key="d"
      :class="{ z: !v }"
      :style="{ height: v ? `${3 + (11 * v) / tall}px` : '2px' }"
      :title="`${weekday(days[d])}: ${t('state.words', { n: v }, v)}`"
    />
  </span>
</template>

<style scoped>
.week {
  display: inline-flex;
  gap: 2px;
  align-items: flex-end;
  height: 14px;
}
.week i {
  width: 5px;
  background: var(--moss-fill);
  border-top: 1.5px solid var(--moss);
  border-radius: 1px 1px 0 0;
}
.week i.z {
  border: 0;
  background: var(--thread);
}
@media (forced-colors: active) {
  .week i:not(.z) {
    forced-color-adjust: none;
    background: CanvasText;
  }
}
@media print {
  .week i {
    print-color-adjust: exact;
  }
}
</style>
