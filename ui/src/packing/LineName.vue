<script setup lang="ts">
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { plainName } from '@/parts/plainName'
import { useReasons } from '@/reasons'
import MendLine from './MendLine.vue'
import { later, waits } from './line'

/** What a line makes, or made, is called; how that came about, and what it waits for. */
defineProps<{ line: Of<'Line'>; main: string; mayFix: boolean; problem?: string }>()
defineEmits<{ fix: [address: string] }>()
const { t } = useI18n()
const { reasonText } = useReasons()
</script>

<template>
  <bdi>{{ plainName(line.name) }}</bdi><span v-if="line.apart" class="apart" :title="t(`naming.${line.apart}`)"> ≠</span
  ><span v-if="line.altered" class="apart" :title="t(`naming.${line.altered}`)"> ✎</span>
  <div v-if="waits(line)" class="waits">
    <MendLine
      :line="line"
      :main="main"
      :may-fix="mayFix"
      :problem="problem"
      @fix="(address) => $emit('fix', address)"
    />
  </div>
  <span
    v-else-if="line.reason && (later(line) || line.section === 'already-there')"
    :class="later(line) ? 'brass' : 'quiet'"
  >
    · {{ reasonText(line.reason) }}</span
  >
  <span v-else-if="line.act === 'share'" class="quiet"> · {{ t('list.share-only') }}</span>
</template>

<style scoped>
.apart {
  color: var(--brass-text);
  font-weight: 700;
}
.waits {
  color: var(--brass-text);
  font-weight: 600;
  white-space: normal;
  overflow-wrap: anywhere;
}
</style>
