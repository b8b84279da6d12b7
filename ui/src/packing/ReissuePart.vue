<script setup lang="ts">
import { Button, Radio, RadioGroup } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useActing } from '@/parts/acting'
import { tellDone } from '@/tell'

/** A document that was changed after it was handed out: who gets its new state. */
const props = defineProps<{ classId: string; handoutId: string; own: boolean }>()
const { t } = useI18n()
const queries = useQueryClient()
const path = computed(() => ({ path: { classId: props.classId, handoutId: props.handoutId } }))
const queryKey = computed(() => keys.handout(props.classId, props.handoutId, 'reissue'))
const { data: look } = useQuery({
  queryKey,
  queryFn: () => data(api.GET('/classes/{classId}/handouts/{handoutId}/reissue', { params: path.value })),
  staleTime: 0,
})
const begun = ref<Of<'Reissue'>['begun']>('leave') // what happens to the begun ones
const n = computed(() => (look.value?.untouched ?? 0) + (begun.value === 'leave' ? 0 : (look.value?.begun.length ?? 0)))
const names = computed(() => {
  const all = look.value?.begun ?? []
  return all.length > 5 ? `${all.slice(0, 5).join('; ')} …` : all.join('; ')
})
const { busy, problem, act } = useActing()
async function give() {
  await act(async () => {
    const body = { begun: begun.value, seen: look.value!.seen }
    await api.POST('/classes/{classId}/handouts/{handoutId}/reissue', { params: path.value, body })
    begun.value = 'leave'
    tellDone(t('handout.reissued'))
  })
  await queries.invalidateQueries({ queryKey: keys.handout(props.classId) })
}
</script>

<template>
  <div v-if="look && (look.untouched || look.begun.length)" class="stale" data-form="reissue">
    <p>{{ look.untouched ? t('handout.stale', { n: look.untouched }, look.untouched) : t('handout.stale-none') }}</p>
    <p v-if="look.handed" class="quiet">{{ t('handout.handed', { n: look.handed }, look.handed) }}</p>
    <template v-if="look.begun.length">
      <p>{{ t('handout.stale-begun', { n: look.begun.length, names }, look.begun.length) }}</p>
      <RadioGroup v-model:value="begun" class="begun">
        <Radio value="leave">{{ t('handout.begun-leave') }}</Radio>
        <Radio value="replace" data-act="begun-too">{{ t('handout.begun-replace') }}</Radio>
        <Radio v-if="own" value="beside" data-act="begun-beside">{{ t('handout.begun-beside') }}</Radio>
      </RadioGroup>
    </template>
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
.begun {
  display: grid;
  gap: 4px;
}
.stale p {
  margin: 0;
}
</style>
