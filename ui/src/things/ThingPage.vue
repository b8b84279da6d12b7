<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { late } from '@/late'
import LinkedText from '@/parts/LinkedText.vue'
import { plainName } from '@/parts/plainName'
import { useRoute } from 'vue-router'
import { api, data, ProblemError } from '@/api/client'
import { keys } from '@/api/keys'
import NothingHere from '@/entry/NothingHere.vue'
import { me } from '@/me'
import { sentence } from '@/tell'
import { past, wall } from '@/when'
import { useClosing } from './closing'
import FolderList from './FolderList.vue'
import LateTexts from './LateTexts.vue'
import LinkPart from './LinkPart.vue'
import ShownPart from './ShownPart.vue'
import FileView from './FileView.vue'

/** A folder, a document or another file, for staff and students alike. */
const StudentFrame = late(() => import('@/student/StudentFrame.vue'))
const StaffFrame = late(() => import('@/class/StaffFrame.vue'))
const TextDocument = late(() => import('./TextDocument.vue'))
const { t } = useI18n()
const route = useRoute()
const id = computed(() => String(route.params.thingId))
const student = computed(() => me.value?.role === 'student')
const {
  data: thing,
  error,
  refetch,
} = useQuery({
  queryKey: computed(() => keys.thing(id.value)),
  queryFn: () => data(api.GET('/things/{thingId}', { params: { path: { thingId: id.value } } })),
  staleTime: 0,
  refetchOnWindowFocus: true,
  // A copy that a student writes in may be closed by hand meanwhile.
  refetchInterval: (q) => (student.value && q.state.data?.handout && q.state.data.level === 'edit' ? 30_000 : false),
})
const { closed, words, announced } = useClosing(
  computed(() => thing.value?.closing),
  computed(() => !!thing.value?.classId),
  () => void refetch(),
)
const renewed = ref(0) // how often its text was replaced from here
async function again() {
  await refetch()
  renewed.value++
}
const gone = computed(() => error.value instanceof ProblemError && error.value.status === 404)
</script>

<template>
  <NothingHere v-if="gone" />
  <component :is="student ? StudentFrame : StaffFrame" v-else>
    <div class="page" :class="{ staff: !student }">
      <p v-if="error && !thing" class="bad" role="alert">{{ sentence(error) }}</p>
      <template v-if="thing">
        <nav class="path" :aria-label="t('thing.path')">
          <RouterLink to="/">{{ student ? t('thing.my-things') : t('today.title') }}</RouterLink>
          <template v-for="c in thing.path" :key="c.id">
            ›
            <RouterLink :to="`/things/${c.id}`"
              ><bdi>{{ c.name }}</bdi></RouterLink
            ></template
          >
        </nav>
        <h1 :id="`t-${thing.id}`">
          <bdi>{{ plainName(thing.name) }}</bdi>
        </h1>
        <p class="quiet sub">
          {{ thing.className
          }}<template v-if="thing.due && !words">
            ·
            {{
              past(thing.due) ? t('home.was-due', { when: wall(thing.due) }) : t('home.due', { when: wall(thing.due) })
            }}</template
          >
          <template v-if="thing.kind === 'folder'">
            · {{ thing.level === 'read' ? t('thing.may-read') : t('thing.may-add') }}</template
          >
        </p>
        <p v-if="words" class="closing" :class="{ closed }" data-closing>{{ words }}</p>
        <p class="visually-hidden" role="status">{{ announced }}</p>
        <p v-if="thing.message" class="message"><LinkedText :text="thing.message" /></p>
        <LinkPart v-if="thing.school" :thing="thing" @changed="refetch()" />
        <LateTexts v-if="thing.late" :key="`${thing.id} ${thing.late}`" :thing="thing" @taken="again" />
        <ShownPart v-if="thing.handout && thing.kind === 'file'" :key="`${thing.id} shown`" :thing="thing" />
        <FolderList v-if="thing.kind === 'folder'" :thing="thing" @changed="refetch()" />
        <TextDocument
          v-else-if="thing.text"
          :key="`${thing.id} ${thing.level} ${renewed}`"
          :thing="thing"
          :refused="() => void refetch()"
        />
        <FileView v-else :thing="thing" />
      </template>
    </div>
  </component>
</template>

<style scoped>
.page {
  max-width: 980px;
}
.page.staff {
  padding: 18px var(--edge) 24px;
  overflow-y: auto;
  max-width: none;
}
.path {
  font-size: 14px;
  margin-bottom: 6px;
  color: var(--ink-3);
}
.sub {
  margin: 2px 0 12px;
}
.closing {
  font-weight: 600;
  margin: 0 0 12px;
}
.closing.closed {
  background: var(--brass-soft);
  color: var(--brass-text);
  border-radius: 6px;
  padding: 8px 14px;
}
.message {
  border-left: 3px solid var(--belt-done);
  padding-left: 12px;
  margin-bottom: 14px;
}
@media print {
  .path {
    display: none;
  }
  .page {
    padding: 0;
  }
}
</style>
