<script setup lang="ts">
import { Button, Checkbox } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data } from '@/api/client'
import { freshenClass } from '@/api/queries'
import { keys } from '@/api/keys'
import { useActing } from '@/parts/acting'
import { useReasons } from '@/reasons'
import { tellDone } from '@/tell'

/** Chosen students become the owners of what they were given: counted first, with what stays as it is and why. */
const props = defineProps<{ classId: string; handoutId: string; rows: string[] }>()
const emit = defineEmits<{ done: [] }>()
const { t } = useI18n()
const { reasonText } = useReasons()
const queries = useQueryClient()
const path = computed(() => ({ path: { classId: props.classId } }))
const asked = computed(() => ({ rows: props.rows, handout: props.handoutId || undefined }))
const { data: look } = useQuery({
  queryKey: computed(() => keys.handing(props.classId, asked.value)),
  queryFn: () => data(api.POST('/classes/{classId}/handing/preview', { params: path.value, body: asked.value })),
})
const staff = ref(true)
const { busy, problem, act } = useActing()
const hand = () =>
  act(async () => {
    const n = look.value!.students
    await api.POST('/classes/{classId}/handing', {
      params: path.value,
      body: { ...asked.value, staff: staff.value, seen: look.value!.seen },
    })
    await freshenClass(queries, props.classId)
    tellDone(t('handing.begun', { n }, n))
    emit('done')
  })
</script>

<template>
  <form v-if="look" class="handing" data-form="handing" @submit.prevent="hand">
    <p>
      {{
        t('handing.what', {
          students: t('handing.students', { n: look.students }, look.students),
          things: t('handing.things', { n: look.things }, look.things),
        })
      }}
    </p>
    <p v-if="look.own" class="quiet">{{ t('handing.own', { n: look.own }, look.own) }}</p>
    <ul v-if="look.without.length" class="quiet">
      <li v-for="w in look.without" :key="w.student + w.name">
        <bdi>{{ w.student }}</bdi> {{ reasonText(w.why) }}
      </li>
    </ul>
    <Checkbox v-model:checked="staff" data-act="staff-stay">{{ t('handing.staff') }}</Checkbox>
    <p class="quiet">{{ t(staff ? 'handing.help' : 'handing.help-without') }}</p>
    <Button
      size="small"
      type="primary"
      html-type="submit"
      :loading="busy"
      :disabled="!look.students"
      data-act="hand-over"
      >{{ t('handing.do', { n: look.students }, look.students) }}</Button
    >
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
  </form>
</template>

<style scoped>
.handing {
  display: grid;
  gap: 8px;
  justify-items: start;
  border-left: 3px solid var(--tide-soft);
  padding-left: 10px;
}
.handing ul {
  margin: 0;
  padding-left: 18px;
}
</style>
