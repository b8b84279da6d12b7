<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'
import { api, data } from '@/api/client'
import { plainName } from '@/parts/plainName'
import StudentFrame from './StudentFrame.vue'

/** The copies of classmates that a student may read. */
const { t } = useI18n()
const route = useRoute()
const handoutId = computed(() => String(route.params.handoutId))
const { data: found, error } = useQuery({
  queryKey: computed(() => ['home', 'mates', handoutId.value]),
  queryFn: () => data(api.GET('/home/handouts/{handoutId}', { params: { path: { handoutId: handoutId.value } } })),
})
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
