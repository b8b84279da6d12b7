<script setup lang="ts">
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { api, data, type Of } from '@/api/client'
import { tellProblem } from '@/tell'

/** Once a run is done: the result of one student, as staff with who may do what, or with that student's eyes. */
const props = defineProps<{ classId: string; run: Of<'Run'> }>()
const { t } = useI18n()
const router = useRouter()
async function look(eyes: boolean) {
  const { classId, run } = props
  try {
    const path = { classId, runId: run.id }
    const { lines } = await data(api.GET('/classes/{classId}/runs/{runId}', { params: { path } }))
    const one = lines.find((l) => l.state === 'packed' && l.row)
    if (!one) return
    await router.push(
      eyes
        ? { name: 'eyes', params: { classId, rowId: one.row } }
        : { name: 'register', params: { classId }, query: { student: one.row, about: run.handout } },
    )
  } catch (e) {
    tellProblem(e)
  }
}
</script>

<template>
  <button class="link" data-act="look-at-one" @click="look(false)">{{ t('belt.look') }}</button>
  <button class="link" data-act="see-one" @click="look(true)">{{ t('belt.eyes') }}</button>
</template>

<style scoped>
.link {
  color: var(--belt-link);
}
</style>
