<script setup lang="ts">
import { Checkbox } from 'ant-design-vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'
import { api, data } from '@/api/client'
import { keys } from '@/api/keys'
import { useActing } from '@/parts/acting'
import { plainName } from '@/parts/plainName'
import StudentFrame from './StudentFrame.vue'

/** The copies of classmates that a student may read, and whom they let into their own. */
const { t } = useI18n()
const route = useRoute()
const handoutId = computed(() => String(route.params.handoutId))
const {
  data: found,
  error,
  refetch,
} = useQuery({
  queryKey: computed(() => keys.home('mates', handoutId.value)),
  queryFn: () => data(api.GET('/home/handouts/{handoutId}', { params: { path: { handoutId: handoutId.value } } })),
  refetchInterval: 15_000, // somebody may let one in meanwhile
})
const { busy, problem, act } = useActing()
const letting = ref('')
async function letIn(row: string, on: boolean) {
  letting.value = row
  await act(() =>
    api.PUT('/home/handouts/{handoutId}/mates/{rowId}', {
      params: { path: { handoutId: handoutId.value, rowId: row } },
      body: { in: on },
    }),
  )
  await refetch()
  letting.value = ''
}
const allowed = computed(() => found.value?.mine.filter((m) => m.in).length ?? 0)
</script>

<template>
  <StudentFrame>
    <section class="mates">
      <h1 v-if="found">{{ found.title }}</h1>
      <p class="quiet">{{ t('notice.mates') }}</p>
      <ul v-if="found?.copies.length">
        <li v-for="c in found.copies" :key="c.thing">
          <RouterLink :to="`/things/${c.thing}`"
            ><bdi>{{ plainName(c.name) }}</bdi></RouterLink
          >
        </li>
      </ul>
      <p v-else-if="found || error">{{ t('notice.mates-none') }}</p>
      <template v-if="found && found.passing !== 'nothing'">
        <h2>{{ t('notice.mine') }}</h2>
        <p class="quiet" aria-live="polite">
          {{ t(`notice.let-${found.passing}`) }} {{ t('notice.let-now', { n: allowed }, allowed) }}
        </p>
        <ul data-form="let-in">
          <li v-for="m in found.mine" :key="m.row">
            <Checkbox
              :checked="m.in !== (letting === m.row)"
              :disabled="busy"
              @update:checked="(on: boolean) => letIn(m.row, on)"
              ><bdi>{{ m.name }}</bdi></Checkbox
            >
          </li>
        </ul>
        <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
      </template>
      <p>
        <RouterLink to="/">{{ t('notice.back') }}</RouterLink>
      </p>
    </section>
  </StudentFrame>
</template>

<style scoped>
.mates {
  max-width: 720px;
}
h2 {
  margin-top: 22px;
}
.mates > p {
  margin: 6px 0;
}
ul {
  list-style: none;
  padding: 0;
  columns: 2 240px;
}
li {
  padding: 5px 0;
  font-size: 16px;
}
</style>
