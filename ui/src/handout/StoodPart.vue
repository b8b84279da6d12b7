<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data } from '@/api/client'
import { keys } from '@/api/keys'
import PickOne from '@/parts/PickOne.vue'
import { useReasons } from '@/reasons'
import { exact } from '@/when'

/** The class list as it stood whenever a handout was packed. */
const props = defineProps<{ classId: string; handoutId: string }>()
const { t } = useI18n()
const { reasonText } = useReasons()
const open = ref(false)
const chosen = ref('')
const path = computed(() => ({ classId: props.classId, handoutId: props.handoutId }))
const { data: times } = useQuery({
  queryKey: computed(() => keys.handout(props.classId, props.handoutId, 'stood')),
  queryFn: () => data(api.GET('/classes/{classId}/handouts/{handoutId}/stood', { params: { path: path.value } })),
  enabled: open,
})
const at = computed(() => chosen.value || times.value?.at(-1)?.id || '') // the first time, unless another is asked for
const { data: list } = useQuery({
  queryKey: computed(() => keys.handout(props.classId, props.handoutId, 'stood', at.value)),
  queryFn: () =>
    data(
      api.GET('/classes/{classId}/handouts/{handoutId}/stood/{stoodId}', {
        params: { path: { ...path.value, stoodId: at.value } },
      }),
    ),
  enabled: computed(() => open.value && !!at.value),
  staleTime: Infinity,
})
const n = (outcome: string) => list.value?.filter((x) => x.outcome === outcome).length ?? 0
const others = computed(() => list.value?.filter((x) => x.outcome !== 'given') ?? [])
const given = computed(() => list.value?.filter((x) => x.outcome === 'given') ?? [])
</script>

<template>
  <div class="stood" data-form="stood">
    <button class="link" :aria-expanded="open" data-act="stood" @click="open = !open">{{ t('stood.open') }}</button>
    <template v-if="open && times">
      <p v-if="!times.length" class="quiet">{{ t('stood.none') }}</p>
      <p v-else>
        <PickOne
          :model-value="at"
          :label="t('stood.when')"
          :options="times.map((x) => ({ value: x.id, label: `${exact(Date.parse(x.at))}, ${x.by}` }))"
          @update:model-value="(v) => (chosen = v)"
        />
      </p>
      <template v-if="list">
        <p>{{ t('stood.counts', { given: n('given'), out: n('left-out'), fix: n('needs-fixing') }) }}</p>
        <ul>
          <li v-for="x in others" :key="x.row">
            <bdi>{{ x.name }}</bdi> <span class="quiet">{{ x.reason ? reasonText(x.reason) : '' }}</span>
          </li>
        </ul>
        <details>
          <summary>{{ t('stood.given', { n: given.length }, given.length) }}</summary>
          <ul>
            <li v-for="x in given" :key="x.row">
              <bdi>{{ x.name }}</bdi>
            </li>
          </ul>
        </details>
      </template>
    </template>
  </div>
</template>

<style scoped>
.stood {
  font-size: 15px;
  margin-bottom: 10px;
}
.stood p {
  margin: 6px 0;
}
ul {
  list-style: none;
  padding: 0;
  margin: 0 0 6px;
}
</style>
