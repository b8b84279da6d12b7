<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

/** In a cell: what is another for this student than for the others, and whether doors differ. */
const props = defineProps<{ apart: number; doors: number }>()
const { t } = useI18n()
const words = computed(() =>
  [
    ...(['level', 'extra', 'closed', 'open'] as const)
      .filter((_, i) => props.apart & (1 << i))
      .map((w) => t(`apart.${w}`)),
    ...(props.doors ? [t('apart.doors', { n: props.doors }, props.doors)] : []),
  ].join('. '),
)
</script>

<template>
  <span class="apart" :class="{ doors }" :title="words" data-apart
    ><span aria-hidden="true">{{ doors ? '!' : '∗' }}</span
    ><span class="visually-hidden">{{ words }}</span></span
  >
</template>

<style scoped>
.apart {
  position: absolute;
  color: var(--ink-2);
  font-size: 13px;
  font-weight: 700;
  margin-left: 3px;
}
.apart.doors {
  color: var(--brick);
}
</style>
