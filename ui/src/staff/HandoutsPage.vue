<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { api, data, type Of } from '@/api/client'
import { tellProblem } from '@/tell'
import { ago, past, wall } from '@/when'
import PlanFile from './room/PlanFile.vue'
import { useClass } from './theClass'

/** The class's handouts: those begun and not packed first, then the newest. */
const { cls, classId, mayPack } = useClass()
const { t } = useI18n()
const router = useRouter()
const path = computed(() => ({ path: { classId: classId.value } }))
const { data: list } = useQuery({
  queryKey: computed(() => ['handouts', classId.value]),
  queryFn: () => data(api.GET('/classes/{classId}/handouts', { params: path.value })),
})
const sorted = computed(() =>
  [...(list.value ?? [])].reverse().sort((a, b) => Number(!!a.packedAt) - Number(!!b.packedAt)),
)
async function begin() {
  try {
    const h = await data(api.POST('/classes/{classId}/handouts', { params: path.value, body: {} }))
    void router.push({ name: 'handout', params: { classId: classId.value, handoutId: h.id } })
  } catch (e) {
    tellProblem(e)
  }
}
const columns = computed(() => cls.value?.columns.map((c) => c.field) ?? [])
async function readFile(body: Of<'PlanFile'>) {
  const h = await data(api.POST('/classes/{classId}/handouts/file', { params: path.value, body }))
  void router.push({ name: 'handout', params: { classId: classId.value, handoutId: h.id } })
}
const sum = (h: Of<'HandoutTag'>, ...states: string[]) => states.reduce((n, s) => n + (h.counts[s] ?? 0), 0)
const what = (h: Of<'HandoutTag'>) => {
  if (h.way === 'notice' && h.packedAt)
    return t(h.withdrawnAt ? 'handouts.notice-down' : 'handouts.notice-up', {
      when: ago(Date.parse(h.withdrawnAt || h.packedAt), t),
    })
  if (h.withdrawnAt) return t('handouts.withdrawn', { when: ago(Date.parse(h.withdrawnAt), t) })
  if (!h.packedAt && h.send) return t(h.sendProblem ? 'handouts.unsent' : 'handouts.sends', { when: wall(h.send) })
  if (!h.packedAt) return t('handouts.draft', { when: ago(Date.parse(h.changedAt), t) })
  const bits = [
    t('handouts.shared', { n: sum(h, 'shared', 'opened', 'working') }),
    t('handouts.begun', { n: sum(h, 'working') }),
  ]
  if (sum(h, 'stuck')) bits.push(t('handouts.stuck', { n: sum(h, 'stuck') }))
  if (sum(h, 'not-made')) bits.push(t('handouts.missing', { n: sum(h, 'not-made') }))
  if (sum(h, 'out')) bits.push(t('handouts.out', { n: sum(h, 'out') }))
  return bits.join(' · ')
}
</script>

<template>
  <div class="handouts">
    <Teleport defer to="#head-acts"
      ><Button v-if="mayPack" type="primary" data-act="new-handout" @click="begin">{{
        t('handouts.new')
      }}</Button></Teleport
    >
    <PlanFile v-if="list && mayPack" class="file" :columns="columns" :read="readFile" words="handout-file" />
    <section v-if="list && !list.length" class="empty">
      <h2>{{ t('handouts.empty') }}</h2>
      <p class="quiet">{{ t('handouts.empty-text') }}</p>
      <Button v-if="mayPack" type="primary" @click="begin">{{ t('handouts.new') }}</Button>
    </section>
    <RouterLink
      v-for="h in sorted"
      :key="h.id"
      class="one"
      :data-handout="h.title"
      :class="{ draft: !h.packedAt }"
      :to="{ name: 'handout', params: { classId, handoutId: h.id } }"
    >
      <span class="title display">{{ h.title || t('handouts.untitled') }}</span>
      <span class="quiet">{{ what(h) }}</span>
      <span class="due" :class="{ faint: h.due && past(h.due) }">{{
        h.due ? t('handouts.due', { when: wall(h.due) }) : ''
      }}</span>
    </RouterLink>
  </div>
</template>

<style scoped>
.file {
  margin-bottom: 12px;
}
.handouts {
  overflow-y: auto;
  padding: 8px 24px 24px;
}
.one {
  display: grid;
  grid-template-columns: minmax(200px, 300px) minmax(0, 1fr) auto;
  gap: 18px;
  align-items: baseline;
  padding: 11px 8px;
  border-bottom: 1px solid var(--thread-2);
  color: var(--ink);
  text-decoration: none;
}
.one:hover {
  background: var(--leather-soft);
}
.title {
  font-size: 17px;
}
.draft .title {
  color: var(--leather-2);
}
.empty {
  padding: 40px 0;
  display: grid;
  gap: 12px;
  justify-items: start;
}
</style>
