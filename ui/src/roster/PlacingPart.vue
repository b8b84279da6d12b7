<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data } from '@/api/client'
import { keys } from '@/api/keys'
import { useActing } from '@/parts/acting'

/** The office's yes to a class: its teachers may print sign-in codes for those on its list now. */
const props = defineProps<{ classId: string; revision: number }>()
const { t } = useI18n()
const queries = useQueryClient()
const path = computed(() => ({ path: { classId: props.classId } }))
const { data: placing } = useQuery({
  queryKey: computed(() => keys.placing(props.classId, props.revision)),
  queryFn: () => data(api.GET('/classes/{classId}/placing', { params: path.value })),
  placeholderData: (old) => old,
})
const { busy, problem, act } = useActing()
async function place() {
  await act(() => api.POST('/classes/{classId}/placing', { params: path.value, body: { seen: placing.value!.seen } }))
  await queries.invalidateQueries({ queryKey: keys.placing() }) // also after a refusal: the list is another by now
}
</script>

<template>
  <p v-if="placing?.students" class="placing" data-part="placing">
    <template v-if="placing.placed < placing.students">
      {{ t('codes.placing', { placed: placing.placed, n: placing.students }) }}
      <Button size="small" :loading="busy" data-act="place" @click="place">{{
        t('codes.place', { n: placing.students })
      }}</Button>
    </template>
    <template v-else>{{ t('codes.placed', { n: placing.students }) }}</template>
    <span v-if="problem" class="bad" role="alert">{{ problem }}</span>
  </p>
</template>

<style scoped>
.placing {
  display: flex;
  gap: 10px;
  align-items: center;
  flex-wrap: wrap;
  margin: 0 0 8px;
}
</style>
