<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { lastDays, weekday } from '@/when'

/** How many words came in on each of the last seven days. */
const props = defineProps<{ days: number[] }>()
const { t } = useI18n()
const each = computed(() => {
  const max = Math.max(1, ...props.days)
  const last = lastDays(7)
  return props.days.map((n, i) => ({
    n,
    tall: Math.round((100 * n) / max),
    name: i === 6 ? t('when.this-day') : weekday(last[i]),
  }))
})
</script>

<template>
  <div class="bars" aria-hidden="true">
    <div v-for="(d, i) in each" :key="i" :class="{ no: !d.n }" :style="{ height: `${d.tall}%` }" />
  </div>
  <div class="names">
    <span v-for="(d, i) in each" :key="i" :title="t('state.words', { n: d.n }, d.n)">{{ d.name }}</span>
  </div>
</template>

<style scoped>
.bars {
  display: flex;
  gap: 6px;
  align-items: flex-end;
  height: 54px;
  border-bottom: 1px solid var(--thread);
}
.bars div {
  flex: 1;
  background: var(--moss-fill);
  border-top: 2px solid var(--moss);
  border-radius: 3px 3px 0 0;
}
.bars div.no {
  border: 0;
  background: var(--thread-2);
  height: 3px !important;
}
.names {
  display: flex;
  gap: 6px;
  font-size: 11.5px;
  color: var(--ink-3);
}
.names span {
  flex: 1;
  text-align: center;
}
@media (forced-colors: active) {
  .bars div:not(.no) {
    forced-color-adjust: none;
    background: CanvasText;
  }
}
@media print {
  .bars div {
    print-color-adjust: exact;
  }
}
</style>
