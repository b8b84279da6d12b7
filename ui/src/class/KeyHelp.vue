<script setup lang="ts">
import { Modal } from 'ant-design-vue'
import { useI18n } from 'vue-i18n'

const open = defineModel<boolean>('open', { required: true })
const { t } = useI18n()
const keys = ['/', 'n', 'p', 't', 'c', '← ↑ → ↓', 'Esc', '?']
const names = ['find', 'new', 'pack', 'top-up', 'pens', 'move', 'close', 'help']
</script>

<template>
  <Modal v-model:open="open" :title="t('keys.all')" :footer="null">
    <dl>
      <template v-for="(k, i) in keys" :key="k">
        <dt>
          <kbd>{{ k }}</kbd>
        </dt>
        <dd>{{ t(`keys.${names[i]}`) }}</dd>
      </template>
    </dl>
  </Modal>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: 110px 1fr;
  gap: 8px 0;
  margin: 8px 0;
}
dd {
  margin: 0;
}
kbd {
  border: 1px solid var(--thread);
  border-radius: 4px;
  padding: 1px 7px;
  background: var(--paper);
  font: inherit;
  font-weight: 600;
}
</style>
