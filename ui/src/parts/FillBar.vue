<script setup lang="ts">
/** How much of something is full, beside a text that says it. */
const props = defineProps<{ part: number; near?: boolean }>()
const width = () => `${Math.min(100, Math.max(props.part > 0 ? 1 : 0, 100 * props.part))}%`
</script>

<template>
  <span class="bar" :class="{ near }" aria-hidden="true"><i :style="{ width: width() }" /></span>
</template>

<style scoped>
.bar {
  display: inline-block;
  width: 140px;
  max-width: 100%;
  height: 9px;
  border: 1px solid var(--thread);
  border-radius: 5px;
  background: var(--sheet);
  overflow: hidden;
  vertical-align: 0;
}
.bar i {
  display: block;
  height: 100%;
  background: var(--moss-fill);
  border-right: 1px solid var(--moss);
  print-color-adjust: exact;
}
.bar.near i {
  background: var(--brass);
}
@media (forced-colors: active) {
  .bar i {
    background: CanvasText;
  }
}
</style>
