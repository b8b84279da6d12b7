<script setup lang="ts">
import { Button, Checkbox } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data } from '@/api/client'
import { useActing } from '@/parts/acting'
import { tellDone } from '@/tell'

/** A document that was changed after it was handed out: who gets its new state. */
const props = defineProps<{ classId: string; handoutId: string }>()
const { t } = useI18n()
const queries = useQueryClient()
const path = computed(() => ({ path: { classId: props.classId, handoutId: props.handoutId } }))
const queryKey = computed(() => ['handout', props.classId, props.handoutId, 'reissue'])
const { data: look } = useQuery({
  queryKey,
  queryFn: () => data(api.GET('/classes/{classId}/handouts/{handoutId}/reissue', { params: path.value })),
  staleTime: 0,
})
const too = ref(false) // the begun ones, too
const n = computed(() => (look.value?.untouched ?? 0) + (too.value ? (look.value?.begun.length ?? 0) : 0))
const names = computed(() => {
  const all = look.value?.begun ?? []
  return all.length > 5 ? `${all.slice(0, 5).join('; ')} …` : all.join('; ')
})
const { busy, problem, act } = useActing()
async function give() {
  await act(async () => {
    const body = { begun: too.value, seen: look.value!.seen }
    await api.POST('/classes/{classId}/handouts/{handoutId}/reissue', { params: path.value, body })
    too.value = false
    tellDone(t('handout.reissued'))
  })
  await queries.invalidateQueries({ queryKey: ['handout', props.classId] })
}
</script>

<template>
  <div v-if="look && (look.untouched || look.begun.length)" class="stale" data-form="reissue">
    <p>{{ look.untouched ? t('handout.stale', { n: look.untouched }, look.untouched) : t('handout.stale-none') }}</p>
    <Checkbox v-if="look.begun.length" v-model:checked="too" data-act="begun-too">{{
      t('handout.stale-begun', { n: look.begun.length, names }, look.begun.length)
    }}</Checkbox>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
    <Button type="primary" size="small" :loading="busy" :disabled="!n" data-act="reissue" @click="give">{{
      t('handout.reissue', { n }, n)
    }}</Button>
  </div>
</template>

<style scoped>
.stale {
  display: grid;
  gap: 8px;
  justify-items: start;
  background: var(--leather-soft);
  border-radius: 8px;
  padding: 10px 14px;
  margin-bottom: 14px;
  font-size: 15px;
  line-height: 1.45;
}
.stale p {
  margin: 0;
}
</style>
