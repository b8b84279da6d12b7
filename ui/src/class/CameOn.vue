<script setup lang="ts">
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import WeekChart from '@/parts/WeekChart.vue'

/** How a class came on, in small; its room is kept until that is known. */
defineProps<{ came?: Of<'ClassWeeks'> }>()
const { t } = useI18n()
</script>

<template>
  <p class="quiet">
    <template v-if="came?.weeks.length">
      <WeekChart small wrote :weeks="came.weeks" :students="came.students" />
      {{ t('today.wrote', { n: came.weeks.at(-1)!.wrote }, came.weeks.at(-1)!.wrote) }}
    </template>
  </p>
</template>

<style scoped>
p {
  min-height: 22px;
  display: flex;
  gap: 8px;
  align-items: flex-end;
  margin: 5px 0 0;
  line-height: 1.2;
}
</style>
