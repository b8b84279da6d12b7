<script setup lang="ts">
import { Button, Checkbox } from 'ant-design-vue'
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useActing } from '@/parts/acting'
import { tellDone } from '@/tell'
import { ago } from '@/when'

/** A handout that is taken back after it went out, and brought back whole. */
const props = defineProps<{ classId: string; handoutId: string; withdrawnAt?: string }>()
const { t } = useI18n()
const queries = useQueryClient()
const path = computed(() => ({ path: { classId: props.classId, handoutId: props.handoutId } }))
const look = ref<Of<'Touched'> | null>(null)
const too = ref(false) // the begun ones, too
const n = computed(() => (look.value?.untouched ?? 0) + (too.value ? (look.value?.begun.length ?? 0) : 0))
const names = computed(() => {
  const all = look.value?.begun ?? []
  return all.length > 5 ? `${all.slice(0, 5).join('; ')} …` : all.join('; ')
})
const { busy, problem, act } = useActing()
const count = () =>
  act(async () => {
    too.value = false
    look.value = await data(api.GET('/classes/{classId}/handouts/{handoutId}/withdraw', { params: path.value }))
  })
const done = async () => {
  look.value = null
  await queries.invalidateQueries({ queryKey: keys.handout(props.classId) })
}
async function withdraw() {
  const body = { begun: too.value, seen: look.value!.seen }
  await act(async () => {
    await api.POST('/classes/{classId}/handouts/{handoutId}/withdraw', { params: path.value, body })
    await done()
  })
}
async function back() {
  await act(async () => {
    await api.POST('/classes/{classId}/handouts/{handoutId}/back', { params: path.value })
    tellDone(t('handout.came-back'))
  })
  await done()
}
</script>

<template>
  <div v-if="withdrawnAt" class="part" data-form="withdrawn">
    <p>{{ t('handout.withdrawn', { when: ago(Date.parse(withdrawnAt), t) }) }}</p>
    <Button type="primary" size="small" :loading="busy" data-act="give-back" @click="back">{{
      t('handout.give-back')
    }}</Button>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
  </div>
  <div v-else-if="look" class="part" data-form="withdraw" @keydown.esc.stop="look = null">
    <p>{{ t('handout.untouched', { n: look.untouched }, look.untouched) }}</p>
    <p v-if="look.handed" class="quiet">{{ t('handout.handed', { n: look.handed }, look.handed) }}</p>
    <Checkbox v-if="look.begun.length" v-model:checked="too" data-act="begun-too">{{
      t('handout.begun-too', { n: look.begun.length, names }, look.begun.length)
    }}</Checkbox>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
    <div class="row">
      <Button danger size="small" :loading="busy" data-act="withdraw" @click="withdraw">{{
        n ? t('handout.withdraw-n', { n }, n) : t('handout.withdraw')
      }}</Button>
      <Button size="small" @click="look = null">{{ t('act.cancel') }}</Button>
    </div>
  </div>
  <template v-else>
    <button class="link throw" data-act="look-withdraw" @click="count">{{ t('handout.withdraw') }}</button>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
  </template>
</template>

<style scoped>
.part {
  display: grid;
  gap: 8px;
  justify-items: start;
  border: 1.5px solid var(--thread);
  border-radius: 8px;
  padding: 10px 14px;
  font-size: 15px;
  line-height: 1.45;
}
.part p {
  margin: 0;
}
.row {
  display: flex;
  gap: 8px;
}
.throw {
  color: var(--brick);
  font-size: 14px;
}
</style>
