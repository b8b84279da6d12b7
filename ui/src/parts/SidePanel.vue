<script setup lang="ts">
import { useI18n } from 'vue-i18n'

/** The side panel beside a page's work: a title, a way to close it, what it is about, acts at its foot. */
defineProps<{ title: string }>()
defineEmits<{ close: [] }>()
const { t } = useI18n()
</script>

<template>
  <aside class="panel" :aria-label="title">
    <div class="top">
      <h2>
        <bdi>{{ title }}</bdi>
      </h2>
      <button class="link" @click="$emit('close')">{{ t('act.close') }}</button>
    </div>
    <div class="within"><slot /></div>
    <div v-if="$slots.foot" class="foot"><slot name="foot" /></div>
  </aside>
</template>

<style scoped>
.panel {
  border-left: 1px solid var(--thread);
  background: var(--sheet);
  padding: 16px 20px;
  font-size: 14.5px;
  margin-top: 10px;
  min-height: 0;
  display: flex;
  flex-direction: column;
}
.top {
  display: flex;
  justify-content: space-between;
  gap: 10px;
  align-items: baseline;
}
.within {
  padding-top: 8px;
  flex: 1;
  min-height: 0;
  overflow-y: auto;
}
.foot {
  padding-top: 12px;
  display: flex;
  gap: 10px;
  align-items: center;
  flex-wrap: wrap;
}
@media (max-width: 1000px) {
  .panel {
    position: fixed;
    inset: 0 0 0 auto;
    width: min(380px, 100vw);
    z-index: 10;
    margin: 0;
  }
}
</style>
