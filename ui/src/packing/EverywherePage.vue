<script setup lang="ts">
import { Button, Checkbox } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useActing } from '@/parts/acting'
import { plainName } from '@/parts/plainName'
import { tellDone } from '@/tell'

/** One packing list of all classes somebody teaches: what is missing in each, ticked to be packed. */
const { t } = useI18n()
const queries = useQueryClient()
const { data: lists } = useQuery({
  queryKey: keys.everywhere(),
  queryFn: () => data(api.GET('/everywhere')),
  staleTime: 0,
  refetchInterval: 5000,
})
const left = ref<Record<string, boolean>>({}) // unticked for this time
const chosen = computed(() => (lists.value ?? []).filter((l) => !left.value[l.class]))
const lines = computed(() => chosen.value.reduce((n, l) => n + l.lines, 0))
const what = (l: Of<'ClassList'>) =>
  [
    l.satchels ? t('also.satchel', { n: l.satchels }, l.satchels) : '',
    l.copies ? t('everywhere.copies', { n: l.copies }, l.copies) : '',
    l.others ? t('everywhere.others', { n: l.others }, l.others) : '',
  ]
    .filter(Boolean)
    .join(', ')
const { busy, problem, act } = useActing()
async function pack() {
  const done = await act(() =>
    data(api.POST('/everywhere', { body: { classes: chosen.value.map((l) => ({ class: l.class, seen: l.digest })) } })),
  )
  if (!done) return
  if (done.changed.length) problem.value = t('everywhere.changed', { n: done.changed.length }, done.changed.length)
  else tellDone(t('everywhere.done'))
  await queries.invalidateQueries({ queryKey: keys.everywhere() })
  await queries.invalidateQueries({ queryKey: keys.classes() })
}
</script>

<template>
  <div class="page">
    <h1>{{ t('everywhere.title') }}</h1>
    <p class="quiet">{{ t('everywhere.text') }}</p>
    <p v-if="lists && !lists.length" class="none">{{ t('everywhere.none') }}</p>
    <ul>
      <li v-for="l in lists" :key="l.class" :data-class="l.name">
        <Checkbox
          :checked="!left[l.class]"
          :aria-label="l.name"
          @update:checked="(on: boolean) => (left = { ...left, [l.class]: !on })"
        />
        <RouterLink :to="{ name: 'room', params: { classId: l.class } }" class="name">{{ l.name }}</RouterLink>
        <span>{{ what(l) }}</span>
        <span class="quiet sample"
          ><template v-for="(x, i) in l.sample" :key="i"
            ><template v-if="i">; </template><bdi>{{ plainName(x) }}</bdi></template
          ><template v-if="l.satchels + l.copies > l.sample.length"> …</template></span
        >
      </li>
    </ul>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
    <Button
      v-if="lists?.length"
      type="primary"
      :disabled="!chosen.length"
      :loading="busy"
      data-act="pack-everywhere"
      @click="pack"
      >{{ t('everywhere.pack', { n: lines }, lines) }}
      {{ t('everywhere.in', { n: chosen.length }, chosen.length) }}</Button
    >
  </div>
</template>

<style scoped>
.page {
  padding: 18px var(--edge) 24px;
  overflow-y: auto;
  min-height: 0;
}
ul {
  list-style: none;
  margin: 16px 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 26px 230px 300px minmax(0, 1fr);
  gap: 10px;
  align-items: baseline;
  padding: 6px 0;
  border-top: 1px solid var(--thread-2);
}
.name {
  font-weight: 600;
}
.sample {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
@media (max-width: 1000px) {
  li {
    grid-template-columns: 26px minmax(0, 1fr);
  }
  li > :not(:first-child) {
    grid-column: 2;
  }
}
.none {
  margin-top: 14px;
}
</style>
