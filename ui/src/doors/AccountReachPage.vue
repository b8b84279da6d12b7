<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'
import { api, data } from '@/api/client'
import { keys } from '@/api/keys'
import NotFetched from '@/parts/NotFetched.vue'
import ReachTable from './ReachTable.vue'

/** What one account reaches in every class of the school, and why. */
const { t } = useI18n()
const route = useRoute()
const accountId = computed(() => String(route.params.accountId))
const { data: all, error } = useQuery({
  queryKey: computed(() => keys.reachEverywhere(accountId.value)),
  queryFn: () => data(api.GET('/doors/{accountId}', { params: { path: { accountId: accountId.value } } })),
})
const file = (format: string) => `/api/doors/${encodeURIComponent(accountId.value)}/export/${format}`
</script>

<template>
  <div class="page" data-page="account-reach">
    <NotFetched v-if="error && !all" />
    <p v-else-if="!all" class="quiet" role="status">{{ t('doors.checking') }}</p>
    <template v-else>
      <h1>{{ t('doors.everywhere', { name: all.name }) }}</h1>
      <p class="row">
        <span class="quiet">{{ t('doors.in-classes', { n: all.classes.length }, all.classes.length) }}</span>
        <a v-for="f in ['csv', 'xlsx', 'ods']" :key="f" :href="file(f)" download>{{ f.toUpperCase() }}</a>
      </p>
      <p v-if="all.more" class="bad">{{ t('doors.more-classes') }}</p>
      <section v-for="c in all.classes" :key="c.id" :data-class="c.name">
        <h2>
          <RouterLink :to="{ name: 'doors', params: { classId: c.id } }"
            ><bdi>{{ c.name }}</bdi></RouterLink
          >
        </h2>
        <ReachTable :reach="c.reach" by="student" shut />
        <p v-if="c.further" class="quiet">{{ t('doors.further', { n: c.further }, c.further) }}</p>
        <p v-if="c.own" class="quiet">{{ t('doors.own-things', { n: c.own }, c.own) }}</p>
      </section>
    </template>
  </div>
</template>

<style scoped>
.page {
  overflow-y: auto;
  height: 100%;
  padding: 18px var(--edge) 32px;
}
.row {
  display: flex;
  gap: 12px;
  flex-wrap: wrap;
}
h2 {
  margin: 22px 0 8px;
}
</style>
