<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data } from '@/api/client'
import { keys } from '@/api/keys'
import { useActing } from '@/parts/acting'
import { moment } from '@/when'

/** The newest door check of every class, and all of them checked now. */
const { t } = useI18n()
const queries = useQueryClient()
const { busy, problem, act } = useActing()
const { data: classes } = useQuery({ queryKey: keys.doorChecks(), queryFn: () => data(api.GET('/doors')) })
const done = ref(0)
const differing = computed(() => (classes.value ?? []).filter((c) => c.last?.differences).length)
const checked = computed(() => (classes.value ?? []).filter((c) => c.last).length)
const all = () =>
  act(async () => {
    done.value = 0
    for (const c of classes.value ?? []) {
      await data(api.POST('/classes/{classId}/doors', { params: { path: { classId: c.id } } }))
      done.value++
    }
    await queries.invalidateQueries({ queryKey: keys.doorChecks() })
  })
</script>

<template>
  <div class="page">
    <h1>{{ t('doors.school-title') }}</h1>
    <p class="quiet">{{ t('doors.school-text') }}</p>
    <div v-if="classes" class="head">
      <Button :loading="busy" data-act="check-all" @click="all">{{ t('doors.check-all') }}</Button>
      <span v-if="busy" class="quiet" role="status">{{ t('doors.so-far', { n: done, all: classes.length }) }}</span>
      <span v-else-if="checked" class="quiet">{{
        differing
          ? t('doors.classes-differ', { n: differing, all: checked }, differing)
          : t('doors.classes-fine', { n: checked }, checked)
      }}</span>
    </div>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
    <table v-if="classes?.length" data-table="school-doors">
      <tbody>
        <tr v-for="c in classes" :key="c.id">
          <td class="name">
            <RouterLink :to="{ name: 'doors', params: { classId: c.id } }"
              ><bdi>{{ c.name }}</bdi></RouterLink
            >
          </td>
          <td :class="{ bad: c.last?.differences }">
            <template v-if="c.last">{{
              c.last.differences
                ? t('doors.count', { n: c.last.differences }, c.last.differences)
                : t('doors.no-differences')
            }}</template>
            <span v-else class="quiet">{{ t('doors.never') }}</span>
          </td>
          <td class="quiet">
            <template v-if="c.last"
              >{{ moment(Date.parse(c.last.at)) }} · {{ c.last.by || t('doors.itself') }}</template
            >
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.page {
  overflow-y: auto;
  height: 100%;
  padding: 18px var(--edge) 32px;
}
.head {
  display: flex;
  gap: 8px 14px;
  align-items: center;
  margin: 14px 0 12px;
  flex-wrap: wrap;
}
table {
  border-collapse: collapse;
  width: 100%;
  font-size: 14.5px;
}
td {
  border-top: 1px solid var(--thread-2);
  padding: 7px 14px 7px 0;
}
.name {
  width: 36%;
  font-weight: 600;
}
</style>
