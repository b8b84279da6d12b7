<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, provide } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'
import { api, data } from '@/api/client'
import { keys } from '@/api/keys'
import { plainName } from '@/parts/plainName'
import { lookedAt, thingAt } from '@/student/eyes'
import HomeView from '@/student/HomeView.vue'
import { sentence } from '@/tell'

/** A class and the things in it as one of its students sees them: to look at, and nothing more. */
const { t } = useI18n()
const route = useRoute()
const classId = computed(() => String(route.params.classId))
const rowId = computed(() => String(route.params.rowId))
const thingId = computed(() => (route.query.thing ? String(route.query.thing) : ''))
const path = computed(() => `/classes/${classId.value}/eyes/${rowId.value}`)
provide(thingAt, (id) => `${path.value}?thing=${id}`)
provide(lookedAt, true)
const { data: eyes, error } = useQuery({
  queryKey: computed(() => keys.eyes(classId.value, rowId.value, thingId.value)),
  queryFn: () =>
    data(
      api.POST('/classes/{classId}/students/{rowId}/eyes', {
        params: { path: { classId: classId.value, rowId: rowId.value } },
        body: thingId.value ? { thing: thingId.value } : {},
      }),
    ),
  refetchOnWindowFocus: false,
  staleTime: Infinity,
  gcTime: 0,
  retry: false,
})
</script>

<template>
  <div class="eyes">
    <p class="mark" role="status" data-eyes>
      <span v-if="eyes">{{ t('eyes.as', { name: eyes.name }) }}</span>
      <RouterLink :to="`/classes/${classId}`" data-act="leave-eyes">{{ t('eyes.leave') }}</RouterLink>
    </p>
    <div class="inside">
      <p v-if="error" class="bad" role="alert">{{ sentence(error) }}</p>
      <HomeView v-if="eyes?.home" :home="eyes.home" looking />
      <section v-else-if="eyes?.thing" class="thing">
        <p>
          <RouterLink :to="path">{{ t('eyes.back', { name: eyes.name }) }}</RouterLink>
        </p>
        <h1>
          <bdi>{{ plainName(eyes.thing.name) }}</bdi>
        </h1>
        <p class="quiet">{{ t('eyes.can', { name: eyes.name, level: t(`level.${eyes.thing.level}`) }) }}</p>
        <ul v-if="eyes.thing.folder">
          <li v-for="x in eyes.thing.children" :key="x.id" :data-thing="x.name">
            <RouterLink :to="`${path}?thing=${x.id}`"
              ><bdi>{{ plainName(x.name) }}</bdi></RouterLink
            >
            <span class="quiet">{{ t(`eyes.${x.kind}`) }} · {{ t(`level.${x.level}`) }}</span>
          </li>
          <li v-if="!eyes.thing.children.length" class="quiet">{{ t('eyes.empty') }}</li>
        </ul>
        <p v-else>
          <RouterLink :to="`/things/${eyes.thing.id}`">{{ t('eyes.open') }}</RouterLink>
        </p>
      </section>
    </div>
  </div>
</template>

<style scoped>
.eyes {
  overflow-y: auto;
  min-height: 0;
  height: 100%;
  border: 4px solid var(--brass);
}
.mark {
  margin: 0;
  position: sticky;
  top: 0;
  z-index: 2;
  background: var(--brass-soft);
  padding: 9px var(--edge);
  display: flex;
  gap: 18px;
  flex-wrap: wrap;
  font-weight: 600;
}
.inside {
  padding: 18px var(--edge) 32px;
}
ul {
  list-style: none;
  margin: 12px 0;
  padding: 0;
  max-width: 720px;
}
li {
  border-top: 1px solid var(--thread-2);
  padding: 7px 0;
  display: flex;
  gap: 12px;
  justify-content: space-between;
}
</style>
