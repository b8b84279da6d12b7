<script setup lang="ts">
import { useI18n } from 'vue-i18n'
import { showKeys } from '@/keys'
import TagMark from '@/parts/TagMark.vue'

/** What the tags mean. */
const { t } = useI18n()
const key = ['not-made', 'waits', 'not-shared', 'shared', 'opened', 'working', 'stuck'] as const
</script>

<template>
  <div class="key">
    <span v-for="s in key" :key="s"
      ><TagMark :state="s" :fill="s === 'working' ? 60 : 0" bare />{{ t(`state.${s}`) }}</span
    >
    <span><b aria-hidden="true">–</b>{{ t('state.out') }}</span>
    <span><b aria-hidden="true">∗</b>{{ t('apart.key') }}</span>
    <span class="grow" />
    <button class="link" @click="showKeys = true">{{ t('keys.all') }}</button>
  </div>
</template>

<style scoped>
.key {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 9px;
  font-size: 11.5px;
  color: var(--ink-2);
  padding: 7px 24px 8px 0;
  align-items: center;
}
.key span {
  display: flex;
  gap: 4px;
  align-items: center;
}
.key svg {
  transform: scale(0.72);
  margin: 0 -6px;
}
@media (max-width: 700px) {
  .key {
    display: none;
  }
}
</style>
