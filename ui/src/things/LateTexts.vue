<script setup lang="ts">
import { Button, Modal } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useActing } from '@/parts/acting'
import { tellDone } from '@/tell'
import { exact } from '@/when'

/** What was written in a copy after it closed: its writer sees it, and staff, who may take it in. */
const props = defineProps<{ thing: Of<'Thing'> }>()
const emit = defineEmits<{ taken: [] }>()
const { t } = useI18n()
const queries = useQueryClient()
const path = computed(() => ({ path: { thingId: props.thing.id } }))
const { data: late } = useQuery({
  queryKey: computed(() => keys.late(props.thing.id, props.thing.late ?? 0)),
  queryFn: () => data(api.GET('/things/{thingId}/late', { params: path.value })),
})
const staff = computed(() => !!props.thing.classId)
const open = computed(() => ['edit', 'owner'].includes(props.thing.level))
const change = (l: Of<'LateText'>) => {
  const said = [
    l.added ? t('late.added', { n: l.added }, l.added) : '',
    l.removed ? t('late.removed', { n: l.removed }, l.removed) : '',
  ].filter(Boolean)
  return said.length ? said.join(', ') + '.' : t('late.same')
}
const { busy, problem, act } = useActing()
const settle = (l: Of<'LateText'>, take: boolean) =>
  act(async () => {
    const body = { whose: l.whose, at: l.at, take }
    await api.POST('/things/{thingId}/late', { params: path.value, body })
    tellDone(t(take ? 'late.taken' : 'late.dropped'))
    await queries.invalidateQueries({ queryKey: keys.late(props.thing.id) })
    emit('taken')
  })
const drop = (l: Of<'LateText'>) =>
  Modal.confirm({
    title: t('late.drop-sure'),
    okText: t('late.drop'),
    cancelText: t('act.cancel'),
    onOk: () => settle(l, false),
  })
</script>

<template>
  <section v-for="l in late" :key="l.whose + l.at" class="late" data-part="late">
    <h2>{{ l.mine ? t('late.mine') : t('late.of', { name: l.name }) }}</h2>
    <p class="quiet">
      {{ exact(Date.parse(l.at)) }} · {{ t(staff ? 'late.staff' : l.mine ? 'late.student' : 'late.assistant') }}
    </p>
    <p v-if="l.added !== undefined" data-late-change>{{ change(l) }}</p>
    <pre>{{ l.text }}</pre>
    <div v-if="staff || l.mine" class="acts">
      <Button
        v-if="staff || (l.mine && open)"
        type="primary"
        :loading="busy"
        data-act="take-late"
        @click="settle(l, true)"
        >{{ t('late.take') }}</Button
      >
      <Button :disabled="busy" data-act="drop-late" @click="drop(l)">{{ t('late.drop') }}</Button>
    </div>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
  </section>
</template>

<style scoped>
.late {
  border: 1.5px solid var(--brass);
  border-radius: 8px;
  padding: 14px 18px;
  margin-bottom: 14px;
  background: var(--sheet);
  display: grid;
  gap: 8px;
}
.late p {
  margin: 0;
}
pre {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  font: inherit;
  max-height: 300px;
  overflow: auto;
  background: var(--paper);
  padding: 10px 12px;
  border-radius: 6px;
  margin: 0;
}
.acts {
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
}
</style>
