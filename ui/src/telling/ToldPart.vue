<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data } from '@/api/client'
import { keys } from '@/api/keys'
import { ago, exact } from '@/when'

/** What a student was told by mail last, and what happened to it. */
const props = defineProps<{ classId: string; row: string }>()
const { t } = useI18n()
const { data: page } = useQuery({
  queryKey: computed(() => keys.messages(props.classId, 'of', props.row)),
  queryFn: () =>
    data(
      api.GET('/classes/{classId}/messages', {
        params: { path: { classId: props.classId }, query: { row: props.row } },
      }),
    ),
})
const latest = computed(() => page.value?.messages.slice(0, 4) ?? [])
</script>

<template>
  <section v-if="latest.length" data-told>
    <h3>{{ t('mail.record') }}</h3>
    <p v-for="m in latest" :key="m.id" class="told" :class="m.state">
      <span>{{ m.subject }}</span>
      <span class="quiet" :title="exact(Date.parse(m.madeAt))"
        >{{ t(`mail.state-${m.state}`) }} · {{ ago(Date.parse(m.madeAt), t) }}</span
      >
    </p>
    <RouterLink :to="{ name: 'log', params: { classId }, query: { view: 'told' } }">{{ t('mail.see-all') }}</RouterLink>
  </section>
</template>

<style scoped>
.told {
  display: flex;
  justify-content: space-between;
  gap: 10px;
  margin: 0 0 4px;
  overflow-wrap: anywhere;
}
.told .quiet {
  white-space: nowrap;
}
.told.failed .quiet {
  color: var(--brick);
}
</style>
