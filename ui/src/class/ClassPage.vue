<script setup lang="ts">
import { Modal } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { api, data, ProblemError } from '@/api/client'
import { settled } from '@/api/queries'
import { keys } from '@/api/keys'
import { tellProblem } from '@/tell'
import NothingHere from '@/entry/NothingHere.vue'
import ClassName from './ClassName.vue'
import StaffPart from './StaffPart.vue'
import { provideClass } from './theClass'

/** One class: its name, staff and number of students on one line, its parts as words. */
const { t } = useI18n()
const route = useRoute()
const router = useRouter()
const queries = useQueryClient()
const classId = computed(() => String(route.params.classId))
const { data: cls, error } = useQuery({
  queryKey: computed(() => keys.class(classId.value)),
  queryFn: () => data(api.GET('/classes/{classId}', { params: { path: { classId: classId.value } } })),
})
const { mayPack } = provideClass(cls, classId)
const gone = computed(() => error.value instanceof ProblemError && error.value.status === 404)
const naming = ref(false) // what it is called is changed
const staffing = ref(false) // who is on its staff is looked at
const office = computed(() => cls.value?.my === 'office')
const pages = computed(() =>
  office.value ? ['register', 'roster', 'doors', 'log'] : ['register', 'handouts', 'room', 'roster', 'doors', 'log'],
)
function clear() {
  Modal.confirm({
    title: t('practice.clear-title'),
    content: t('practice.clear-text'),
    okText: t('practice.clear'),
    okButtonProps: { danger: true },
    cancelText: t('act.cancel'),
    onOk: () => leaving((path) => api.DELETE('/practice/{classId}', { params: { path } })),
  })
}
const remove = () => leaving((path) => api.DELETE('/classes/{classId}', { params: { path } }))
// The page is left before its class ends, so that nothing asks for what is gone.
async function leaving(end: (path: { classId: string }) => Promise<unknown>) {
  const [path, from] = [{ classId: classId.value }, route.fullPath]
  await router.push('/')
  await settled(queries, path.classId)
  try {
    await end(path)
    await queries.invalidateQueries({ queryKey: keys.classes() })
  } catch (e) {
    tellProblem(e)
    await router.push(from)
  }
}
const on = (p: string) =>
  route.name === p || (p === 'handouts' && route.name === 'handout') || (p === 'doors' && route.name === 'links')
</script>

<template>
  <NothingHere v-if="gone" inside />
  <div v-else-if="cls" class="page">
    <header>
      <p v-if="cls.practice" class="practice">
        {{ t('practice.bar') }}
        <button class="link" data-act="clear-practice" @click="clear">{{ t('practice.clear') }}</button>
      </p>
      <div class="head">
        <h1 id="page-title">{{ cls.name }}</h1>
        <span class="quiet sub">
          {{ t('class.count', { n: cls.students }, cls.students) }} ·
          <button class="link" :aria-expanded="staffing" data-act="staff" @click="staffing = !staffing">
            {{ cls.staff.map((s) => s.name).join(', ') }}</button><template v-if="cls.period">
            · {{ t('class.period-n', { period: cls.period }) }}</template
          >
          <span v-if="mayPack" class="no-print">
            ·
            <button class="link" :aria-expanded="naming" data-act="name-class" @click="naming = !naming">
              {{ t('class.edit') }}
            </button></span
          >
        </span>
        <button v-if="cls.empty && cls.my === 'owner'" class="link" data-act="remove-class" @click="remove">
          {{ t('class.remove') }}
        </button>
        <span id="head-acts" class="acts" />
      </div>
      <StaffPart v-if="staffing" @close="staffing = false" />
      <ClassName v-if="naming" :key="classId" @close="naming = false" />
      <nav :aria-label="t('class.parts')">
        <RouterLink
          v-for="p in pages"
          :key="p"
          :to="{ name: p, params: { classId } }"
          :class="{ on: on(p) }"
          :aria-current="on(p) ? 'page' : undefined"
          >{{ t(`page.${p}`) }}</RouterLink
        >
      </nav>
    </header>
    <RouterView :key="classId" />
    <div id="foot-acts" />
  </div>
</template>

<style scoped>
.page {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr) auto;
  min-height: 0;
  min-width: 0;
}
#foot-acts:not(:empty) {
  display: flex;
  gap: 10px;
  padding: 10px 16px;
  border-top: 1px solid var(--thread);
  background: var(--sheet);
}
#foot-acts > :deep(*) {
  flex: 1;
  min-height: 44px;
}
header {
  padding: 16px 24px 0;
}
.practice {
  background: var(--brass-soft);
  color: var(--brass-text);
  border-radius: 6px;
  padding: 4px 12px;
  margin-bottom: 8px;
  font-size: 14px;
}
.head {
  display: flex;
  align-items: baseline;
  gap: 4px 14px;
  flex-wrap: wrap;
  min-height: 40px;
}
.sub {
  font-size: 14.5px;
}
.acts {
  display: flex;
  gap: 10px;
  align-self: center;
  margin-left: auto;
}
nav {
  display: flex;
  gap: 22px;
  margin-top: 6px;
  border-bottom: 1px solid var(--thread);
  overflow-x: auto;
  overflow-y: hidden;
  scrollbar-width: none;
}
nav a {
  padding: 6px 0 8px;
  color: var(--ink-2);
  position: relative;
  text-decoration: none;
}
nav a:hover {
  color: var(--ink);
}
nav a.on {
  color: var(--ink);
  font-weight: 650;
}
nav a.on::after {
  content: '';
  position: absolute;
  left: 0;
  right: 0;
  bottom: -1px;
  height: 3px;
  border-radius: 3px 3px 0 0;
  background: var(--leather);
}
@media (max-width: 760px) {
  header {
    padding: 8px 16px 0;
  }
  .head {
    min-height: 0;
  }
  h1 {
    font-size: 21px;
  }
  .sub {
    font-size: 13px;
  }
  nav {
    margin-right: -16px;
    /* more of it is at the side */
    mask-image: linear-gradient(90deg, #000 calc(100% - 32px), transparent);
  }
}
@media print {
  .page {
    display: block;
  }
  header {
    padding: 0 0 6mm;
  }
  nav,
  .acts,
  #foot-acts {
    display: none !important;
  }
}
</style>
