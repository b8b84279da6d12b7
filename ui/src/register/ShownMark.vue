<script setup lang="ts">
import { useI18n } from 'vue-i18n'

/** In a cell: a draft was shown, and waits to be looked at, or not. */
defineProps<{ state: number }>()
const { t } = useI18n()
</script>

<template>
  <span class="shown" :class="{ wait: state === 1 }" :title="t(`shown.state-${state}`)"
    ><span aria-hidden="true">◆</span><span class="visually-hidden">{{ t(`shown.state-${state}`) }}</span></span
  >
</template>

<style scoped>
.shown {
  position: absolute; /* the tags of a column stay under one another */
  color: var(--ink-3);
  font-size: 10px;
  margin-left: 2px;
  vertical-align: super;
}
.shown.wait {
  color: var(--brick);
}
</style>
