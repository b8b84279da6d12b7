<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { useQuery } from '@tanstack/vue-query'
import { useI18n } from 'vue-i18n'
import { late } from '@/late'
import { api, data } from '@/api/client'
import { keys } from '@/api/keys'
import { me } from '@/me'
import { useActing } from '@/parts/acting'
import { plainName } from '@/parts/plainName'
import { tellDone } from '@/tell'
import { ago, exact } from '@/when'

/** What is yours and is in the bin: it can be brought back until its term is over. */
const StudentFrame = late(() => import('@/student/StudentFrame.vue'))
const StaffFrame = late(() => import('@/class/StaffFrame.vue'))
const { t } = useI18n()
const student = me.value?.role === 'student'
const { data: bin, refetch } = useQuery({ queryKey: keys.bin(), queryFn: () => data(api.GET('/bin')), staleTime: 0 })
const { busy, problem, act } = useActing()
async function back(id: string, name: string) {
  await act(async () => {
    await api.POST('/bin/{thingId}/restore', { params: { path: { thingId: id } } })
    tellDone(t('bin.done', { name }))
  })
  await refetch()
}
</script>

<template>
  <component :is="student ? StudentFrame : StaffFrame">
    <div class="page" :class="{ staff: !student }">
      <h1>{{ t('bin.title') }}</h1>
      <p class="quiet">{{ t('bin.text') }}</p>
      <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
      <ul>
        <li v-for="b in bin" :key="b.id" :data-binned="b.name">
          <b
            ><bdi>{{ plainName(b.name) }}</bdi></b
          >
          <span class="quiet" :title="exact(Date.parse(b.at))">{{
            t('bin.by', { name: b.by, when: ago(Date.parse(b.at), t) })
          }}</span>
          <span class="quiet">{{ t('bin.until', { when: exact(Date.parse(b.until)) }) }}</span>
          <Button size="small" :disabled="busy" data-act="restore" @click="back(b.id, plainName(b.name))">{{
            t('remedy.bring-back')
          }}</Button>
        </li>
      </ul>
      <p v-if="bin && !bin.length" class="quiet">{{ t('bin.none') }}</p>
    </div>
  </component>
</template>

<style scoped>
.page {
  max-width: 980px;
}
.page.staff {
  padding: 18px var(--edge) 24px;
  overflow-y: auto;
  max-width: none;
}
ul {
  list-style: none;
  padding: 0;
  margin: 14px 0;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 230px 240px auto;
  gap: 12px;
  align-items: baseline;
  padding: 8px 2px;
  border-top: 1px solid var(--thread-2);
}
@media (max-width: 760px) {
  li {
    grid-template-columns: minmax(0, 1fr) auto;
  }
  li span {
    grid-column: 1 / 3;
    grid-row: auto;
    font-size: 14px;
  }
}
</style>
