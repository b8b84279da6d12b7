<script setup lang="ts">
import { Input } from 'ant-design-vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data } from '@/api/client'
import { keys } from '@/api/keys'
import { useRoster } from '@/api/queries'
import { useClass } from '@/class/theClass'
import NotFetched from '@/parts/NotFetched.vue'
import { useRested } from '@/parts/rested'
import ReachTable from './ReachTable.vue'

/** What one student or one of the staff reaches, or who reaches one thing, now, and why. */
const props = defineProps<{ classId: string; by: 'student' | 'thing' }>()
const { t } = useI18n()
const find = ref('')
const asked = useRested(find)
const chosen = ref('')
const { cls } = useClass()
const most = 2000 // that are told at once
const ofStaff = 'staff:' // before the account of one of the staff
const classId = computed(() => props.classId)
const { data: roster } = useRoster(
  classId,
  computed(() => props.by === 'student'),
)
const { data: things } = useQuery({
  queryKey: computed(() => keys.doorThings(props.classId, asked.value)),
  enabled: computed(() => props.by === 'thing'),
  queryFn: () =>
    data(
      api.GET('/classes/{classId}/doors/things', {
        params: { path: { classId: props.classId }, query: { find: asked.value || undefined } },
      }),
    ),
  placeholderData: (old) => old,
})
const list = computed(() => {
  if (props.by === 'thing')
    return (things.value?.things ?? []).map((x) => ({
      id: x.id,
      name: x.name,
      depth: asked.value ? 0 : x.depth,
      folder: x.folder,
    }))
  const wanted = asked.value.trim().toLocaleLowerCase()
  const staff = (cls.value?.staff ?? []).map((m) => ({ id: `${ofStaff}${m.account}`, name: m.name }))
  return [...staff, ...(roster.value ?? []).map((s) => ({ id: s.row, name: s.name }))]
    .map((s) => ({ ...s, depth: 0, folder: s.id.startsWith(ofStaff) }))
    .filter((s) => s.name.toLocaleLowerCase().includes(wanted))
})
const query = computed((): Record<string, string> => {
  if (props.by === 'thing') return { thing: chosen.value }
  return chosen.value.startsWith(ofStaff) ? { account: chosen.value.slice(ofStaff.length) } : { row: chosen.value }
})
const { data: reach, error } = useQuery({
  queryKey: computed(() => keys.reach(props.classId, props.by, chosen.value)),
  enabled: computed(() => !!chosen.value),
  queryFn: () =>
    data(
      api.GET('/classes/{classId}/doors/reach', { params: { path: { classId: props.classId }, query: query.value } }),
    ),
})
const file = (format: string) =>
  `/api/classes/${props.classId}/doors/reach/export/${format}?${new URLSearchParams(query.value)}`
</script>

<template>
  <div class="reach">
    <div class="list">
      <Input
        v-model:value="find"
        :placeholder="t(`doors.find-${by}`)"
        :aria-label="t(`doors.find-${by}`)"
        allow-clear
      />
      <ul>
        <li v-for="x in list" :key="x.id" :style="{ paddingLeft: `${x.depth * 14}px` }">
          <button
            class="plain"
            :class="{ on: x.id === chosen, folder: x.folder }"
            :aria-pressed="x.id === chosen"
            @click="chosen = x.id"
          >
            <bdi>{{ x.name }}</bdi>
          </button>
        </li>
      </ul>
      <p v-if="things?.more && by === 'thing'" class="quiet">{{ t('doors.find-more') }}</p>
    </div>
    <div class="what" aria-live="polite">
      <p v-if="!chosen" class="quiet">{{ t(`doors.choose-${by}`) }}</p>
      <NotFetched v-else-if="error && !reach" />
      <template v-else-if="reach">
        <div class="row">
          <span class="quiet">{{ t(`doors.reach-${by}`, { n: reach.length }, reach.length) }}</span>
          <span class="grow" />
          <a v-for="f in ['csv', 'xlsx', 'ods']" :key="f" :href="file(f)" download>{{ f.toUpperCase() }}</a>
        </div>
        <p v-if="reach.length >= most" class="quiet">{{ t('doors.reach-first', { n: reach.length }) }}</p>
        <ReachTable :reach="reach" :by="by" />
      </template>
    </div>
  </div>
</template>

<style scoped>
.reach {
  display: grid;
  grid-template-columns: 280px minmax(0, 1fr);
  gap: 24px;
  align-items: start;
}
.list ul {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
  font-size: 14.5px;
}
.list button {
  padding: 3px 8px;
  border-radius: 5px;
  width: 100%;
  overflow-wrap: anywhere;
}
.list button.folder {
  font-weight: 600;
}
.list button.on {
  background: var(--tide-soft);
}
.row {
  display: flex;
  gap: 12px;
  margin-bottom: 6px;
}
@media (max-width: 700px) {
  .reach {
    grid-template-columns: minmax(0, 1fr);
  }
  .list ul {
    max-height: 220px;
    overflow-y: auto;
  }
}
</style>
