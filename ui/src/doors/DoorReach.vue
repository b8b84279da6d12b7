<script setup lang="ts">
import { Input } from 'ant-design-vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useRoster } from '@/api/queries'
import NotFetched from '@/parts/NotFetched.vue'
import { useRested } from '@/parts/rested'

/** What one student reaches, or who reaches one thing, now, and why. */
const props = defineProps<{ classId: string; by: 'student' | 'thing' }>()
const { t } = useI18n()
const find = ref('')
const asked = useRested(find)
const chosen = ref('')
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
  return (roster.value ?? [])
    .map((s) => ({ id: s.row, name: s.name, depth: 0, folder: false }))
    .filter((s) => s.name.toLocaleLowerCase().includes(wanted))
})
const query = computed(() => ({ [props.by === 'student' ? 'row' : 'thing']: chosen.value }))
const { data: reach, error } = useQuery({
  queryKey: computed(() => keys.reach(props.classId, props.by, chosen.value)),
  enabled: computed(() => !!chosen.value),
  queryFn: () =>
    data(
      api.GET('/classes/{classId}/doors/reach', { params: { path: { classId: props.classId }, query: query.value } }),
    ),
})
const sort = ref<'place' | 'name' | 'level'>('place')
const levels = ['nothing', 'read', 'comment', 'edit', 'owner']
const shown = computed(() => {
  const all = [...(reach.value ?? [])]
  const name = (r: Of<'Reach'>) => (props.by === 'student' ? r.name : (r.person ?? ''))
  if (sort.value === 'name') all.sort((a, b) => name(a).localeCompare(name(b)))
  if (sort.value === 'level') all.sort((a, b) => levels.indexOf(b.level) - levels.indexOf(a.level))
  return all
})
const why = (r: Of<'Reach'>) => t(`way.${r.way}`, { from: r.from }) + (r.closed ? ` ${t('way.closed')}` : '')
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
        <table data-table="reach">
          <thead>
            <tr>
              <th>
                <button class="link" @click="sort = sort === 'name' ? 'place' : 'name'">
                  {{ t(by === 'student' ? 'doors.thing' : 'doors.person') }}
                </button>
              </th>
              <th>
                <button class="link" @click="sort = sort === 'level' ? 'place' : 'level'">{{ t('doors.may') }}</button>
              </th>
              <th>{{ t('doors.why') }}</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="r in shown" :key="r.thing + r.person">
              <td>
                <template v-if="by === 'student'"
                  ><RouterLink :to="`/things/${r.thing}`"
                    ><bdi>{{ r.name }}</bdi></RouterLink
                  ><span v-if="r.in" class="quiet">{{ ' ' + t('doors.lies-in', { folder: r.in }) }}</span></template
                >
                <bdi v-else>{{ r.person ?? t('way.school') }}</bdi>
              </td>
              <td :class="{ bad: r.level !== r.should && !r.closed }">
                {{ t(`level.${r.level}`)
                }}<template v-if="r.level !== r.should && !r.closed"
                  >, {{ t('doors.should-be', { level: t(`level.${r.should}`) }) }}</template
                >
              </td>
              <td class="quiet">{{ why(r) }}</td>
            </tr>
          </tbody>
        </table>
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
table {
  border-collapse: collapse;
  width: 100%;
  font-size: 14.5px;
}
th {
  text-align: left;
  font-size: 13px;
  font-weight: 500;
  padding: 0 12px 6px 0;
  border-bottom: 1px solid var(--thread);
}
td {
  border-bottom: 1px solid var(--thread-2);
  padding: 6px 12px 6px 0;
  vertical-align: top;
  overflow-wrap: anywhere;
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
