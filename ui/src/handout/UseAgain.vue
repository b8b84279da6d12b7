<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { api, data } from '@/api/client'
import { useClasses } from '@/api/queries'
import { keys } from '@/api/keys'
import { useActing } from '@/parts/acting'
import PickOne from '@/parts/PickOne.vue'
import { tellDone } from '@/tell'

/** Begins a handout as this one is, in this class or another. */
const props = defineProps<{ classId: string; handoutId: string }>()
const { t } = useI18n()
const router = useRouter()
const queries = useQueryClient()
const open = ref(false)
const { data: classes } = useClasses()
const to = ref(props.classId)
const options = computed(() =>
  (classes.value ?? []).filter((c) => c.teach).map((c) => ({ value: c.id, label: c.name })),
)
const { busy, problem, act } = useActing()
async function begin() {
  const path = { classId: props.classId, handoutId: props.handoutId }
  const made = await act(() =>
    data(api.POST('/classes/{classId}/handouts/{handoutId}/again', { params: { path }, body: { to: to.value } })),
  )
  if (!made) return
  const lost = made.without.map((w) => t(`again.${w}`)).join(', ')
  tellDone(lost ? t('again.done-but', { lost }) : t('again.done'))
  open.value = false
  await queries.invalidateQueries({ queryKey: keys.handouts(to.value) })
  await router.push({ name: 'handout', params: { classId: to.value, handoutId: made.id } })
}
</script>

<template>
  <Button v-if="!open" data-act="use-again" @click="open = true">{{ t('again.use') }}</Button>
  <form v-else class="again" data-form="again" @submit.prevent="begin" @keydown.esc.stop="open = false">
    <PickOne v-model="to" :options="options" :label="t('again.in')" />
    <Button type="primary" html-type="submit" :loading="busy">{{ t('again.begin') }}</Button>
    <Button @click="open = false">{{ t('act.cancel') }}</Button>
    <span v-if="problem" class="bad" role="alert">{{ problem }}</span>
  </form>
</template>

<style scoped>
.again {
  display: flex;
  gap: 8px;
  align-items: center;
}
</style>
