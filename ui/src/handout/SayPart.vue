<script setup lang="ts">
import { useI18n } from 'vue-i18n'

/** One part of a handout's sentence, under a small head; other says that it isn't as in the last handout. */
defineProps<{ head: string; other?: boolean }>()
const { t } = useI18n()
</script>

<template>
  <section class="part">
    <h3>
      {{ head }}<small v-if="other" data-other>{{ t('say.not-last') }}</small>
    </h3>
    <div class="lines"><slot /></div>
  </section>
</template>

<style scoped>
.part {
  display: grid;
  grid-template-columns: 84px minmax(0, 1fr);
  gap: 0 14px;
  margin-bottom: 14px;
}
h3 {
  font: inherit;
  font-size: 13.5px;
  line-height: 1.35;
  color: var(--ink-2);
  margin: 6px 0 0;
}
h3 small {
  display: block;
  font-size: 12px;
  color: var(--brass-text);
}
.lines :deep(p) {
  margin: 0 0 2px;
}
@media (max-width: 560px) {
  .part {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
