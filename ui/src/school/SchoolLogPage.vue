<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data } from '@/api/client'
import LogLines from '@/register/LogLines.vue'
import { useLogPages } from '@/register/logPages'

/** What was done to the school and its accounts. */
const { t } = useI18n()
const find = ref('')
const { lines, more, hasMore, came } = useLogPages(ref(''), find, ref(true), (query) =>
  data(api.GET('/log', { params: { query } })),
)
const file = (format: string) =>
  `/api/log/export/${format}${find.value ? `?find=${encodeURIComponent(find.value)}` : ''}`
</script>

<template>
  <div class="page">
    <h1>{{ t('log.school') }}</h1>
    <p class="quiet">{{ t('log.school-text') }}</p>
    <div class="head">
      <Input v-model:value="find" class="find" :placeholder="t('log.find')" :aria-label="t('log.find')" allow-clear />
      <span class="grow" />
      <span class="export">
        <span class="quiet">{{ t('log.export') }}</span>
        <a v-for="f in ['csv', 'xlsx', 'ods']" :key="f" :href="file(f)" download>{{ f.toUpperCase() }}</a>
      </span>
    </div>
    <LogLines :lines="lines" />
    <p v-if="came && !lines.length" class="quiet">{{ t(find ? 'log.none' : 'log.empty') }}</p>
    <Button v-if="hasMore" size="small" class="more" @click="more">{{ t('log.more') }}</Button>
  </div>
</template>

<style scoped>
.page {
  overflow-y: auto;
  height: 100%;
  padding: 18px var(--edge) 32px;
}
.head {
  display: flex;
  gap: 12px;
  align-items: center;
  margin: 14px 0 12px;
  flex-wrap: wrap;
}
.find {
  width: 260px;
}
.export {
  display: flex;
  gap: 12px;
}
.more {
  margin-top: 12px;
}
</style>
