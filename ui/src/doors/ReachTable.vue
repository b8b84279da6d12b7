<script setup lang="ts">
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'

/** What somebody reaches, or who reaches something, each with why; shut: things aren't opened from here. */
const props = defineProps<{ reach: Of<'Reach'>[]; by: 'student' | 'thing'; shut?: boolean }>()
const { t } = useI18n()
const sort = ref<'place' | 'name' | 'level'>('place')
const levels = ['nothing', 'read', 'comment', 'edit', 'owner']
const shown = computed(() => {
  const all = [...props.reach]
  const name = (r: Of<'Reach'>) => (props.by === 'student' ? r.name : (r.person ?? ''))
  if (sort.value === 'name') all.sort((a, b) => name(a).localeCompare(name(b)))
  if (sort.value === 'level') all.sort((a, b) => levels.indexOf(b.level) - levels.indexOf(a.level))
  return all
})
const why = (r: Of<'Reach'>) => t(`way.${r.way}`, { from: r.from }) + (r.closed ? ` ${t('way.closed')}` : '')
</script>

<template>
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
            ><bdi v-if="shut">{{ r.name }}</bdi
            ><RouterLink v-else :to="`/things/${r.thing}`"
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

<style scoped>
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
</style>
