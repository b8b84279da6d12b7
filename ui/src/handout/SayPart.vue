<script setup lang="ts">
/** One part of a handout's sentence, under a small head. */
defineProps<{ head: string }>()
</script>

<template>
  <section class="part">
    <h3>{{ head }}</h3>
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
.lines :deep(p) {
  margin: 0 0 2px;
}
@media (max-width: 560px) {
  .part {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
