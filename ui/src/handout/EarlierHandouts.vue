<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useClasses } from '@/api/queries'
import { useActing } from '@/parts/acting'
import PickOne from '@/parts/PickOne.vue'
import { tellDone } from '@/tell'
import { ago, wall } from '@/when'

/** Begins a handout that is empty so far as an earlier one was, of this class or another. */
const props = defineProps<{ classId: string; handoutId: string }>()
const { t } = useI18n()
const router = useRouter()
const queries = useQueryClient()
const open = ref(false)
const from = ref(props.classId)
const { data: classes } = useClasses()
const options = computed(() =>
  (classes.value ?? []).filter((c) => c.teach).map((c) => ({ value: c.id, label: c.name })),
)
const { data: handouts } = useQuery({
  queryKey: computed(() => keys.handouts(from.value)),
  enabled: open,
  queryFn: () => data(api.GET('/classes/{classId}/handouts', { params: { path: { classId: from.value } } })),
})
const earlier = computed(() =>
  (handouts.value ?? [])
    .filter((h) => h.packedAt && h.way !== 'notice')
    .sort((a, b) => b.packedAt!.localeCompare(a.packedAt!)),
)
const { busy, problem, act } = useActing()
const begin = (h: Of<'HandoutTag'>) =>
  act(async () => {
    const path = { classId: from.value, handoutId: h.id }
    const to = props.classId
    const made = await data(
      api.POST('/classes/{classId}/handouts/{handoutId}/again', { params: { path }, body: { to } }),
    )
    const lost = made.without.map((w) => t(`again.${w}`)).join(', ')
    tellDone(lost ? t('again.done-but', { lost }) : t('again.done'))
    await router.replace({ name: 'handout', params: { classId: to, handoutId: made.id } })
    // The empty one was begun for this.
    await api.DELETE('/classes/{classId}/handouts/{handoutId}', {
      params: { path: { classId: to, handoutId: props.handoutId } },
    })
    await queries.invalidateQueries({ queryKey: keys.handouts(to) })
  })
</script>

<template>
  <div class="earlier">
    <button class="link" :aria-expanded="open" data-act="from-earlier" @click="open = !open">
      {{ t('earlier.begin') }}
    </button>
    <template v-if="open">
      <PickOne v-if="options.length > 1" v-model="from" :options="options" :label="t('again.in')" />
      <ul v-if="earlier.length">
        <li v-for="h in earlier" :key="h.id">
          <button class="link" :disabled="busy" :data-earlier="h.title" @click="begin(h)">
            <bdi>{{ h.title }}</bdi>
          </button>
          <span class="quiet">{{
            [t(`say.way-${h.way}`), h.due && wall(h.due), ago(Date.parse(h.packedAt!), t)].filter(Boolean).join(' · ')
          }}</span>
        </li>
      </ul>
      <p v-else-if="handouts" class="quiet">{{ t('earlier.none') }}</p>
      <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
    </template>
  </div>
</template>

<style scoped>
.earlier {
  margin-top: 14px;
  font-size: 14.5px;
}
.earlier > button {
  margin-right: 10px;
}
.earlier > button,
li button {
  min-height: 24px;
}
ul {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
  max-height: 300px;
  overflow-y: auto;
}
li {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  padding: 4px 0;
  border-top: 1px solid var(--thread-2);
}
</style>
