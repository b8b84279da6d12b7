<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, nextTick, useTemplateRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data } from '@/api/client'
import { keys } from '@/api/keys'
import { useActing } from '@/parts/acting'
import { plainName } from '@/parts/plainName'
import SidePanel from '@/parts/SidePanel.vue'
import { sentence } from '@/tell'

/** What is missing in the class, student by student, to be packed as it stands here. */
const props = defineProps<{ classId: string }>()
const emit = defineEmits<{ close: []; packed: [] }>()
const { t } = useI18n()
const params = computed(() => ({ path: { classId: props.classId } }))
const {
  data: list,
  error,
  refetch,
} = useQuery({
  queryKey: computed(() => keys.missing(props.classId)),
  queryFn: () => data(api.GET('/classes/{classId}/top-up', { params: params.value })),
})
// Each student with what is missing; what is for nobody alone comes first.
const groups = computed(() => {
  const by = new Map<string, { who: string; things: string[] }>()
  for (const l of list.value?.lines ?? []) {
    const own = l.purpose === 'copy' ? plainName(l.name) : t(`purpose.${l.purpose}`)
    const g = by.get(l.row) ?? { who: l.student || t('top-up.class'), things: [] }
    const thing = l.act === 'share' ? t('top-up.share', { thing: own }) : own
    if (!g.things.includes(thing)) g.things.push(thing)
    by.set(l.row, g)
  }
  return [...by].map(([row, g]) => ({ row, ...g }))
})
const count = computed(() => list.value?.lines.length ?? 0)
const go = useTemplateRef<{ $el: HTMLElement }>('go')
watch(count, (n) => n && void nextTick(() => go.value?.$el.focus()), { immediate: true })
const { busy, problem, act } = useActing()
async function pack() {
  await act(async () => {
    await api.POST('/classes/{classId}/top-up', { params: params.value, body: { seen: list.value?.digest } })
    emit('packed')
  })
  if (problem.value) void refetch()
}
</script>

<template>
  <SidePanel :title="t('top-up.title')" data-panel="top-up" @close="emit('close')">
    <p class="quiet">{{ t('top-up.text') }}</p>
    <p v-if="error" class="bad" role="alert">{{ sentence(error) }}</p>
    <p v-else-if="list && !count" class="quiet">{{ t('top-up.nothing') }}</p>
    <ul>
      <li v-for="g in groups" :key="g.row" :data-missing="g.who">
        <strong
          ><bdi>{{ g.who }}</bdi></strong
        ><span class="quiet"
          ><template v-for="(x, i) in g.things" :key="x"
            ><template v-if="i"> · </template><bdi>{{ x }}</bdi></template
          ></span
        >
      </li>
    </ul>
    <template #foot>
      <Button
        ref="go"
        type="primary"
        :disabled="!count"
        :loading="busy"
        data-act="pack-missing"
        @click="pack"
        @keydown.enter.prevent="pack"
        >{{ t('handout.pack-rest', { n: count }, count) }}</Button
      >
      <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
    </template>
  </SidePanel>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 10px 0 0;
  padding: 0;
}
li {
  display: grid;
  gap: 1px;
  padding: 6px 0;
  border-bottom: 1px solid var(--thread-2);
}
strong {
  font-weight: 600;
}
</style>
