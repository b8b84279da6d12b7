<script setup lang="ts">
import { computed, inject } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import LinkedText from '@/parts/LinkedText.vue'
import TagMark from '@/parts/TagMark.vue'
import { lookedAt, thingAt } from './eyes'
import WithIt from './WithIt.vue'

/** Something a student was given, on their own page. */
const props = defineProps<{ copy: Of<'HomeCopy'>; line: string; go?: boolean }>()
const { t } = useI18n()
const at = inject(thingAt, (id: string) => `/things/${id}`)
const looking = inject(lookedAt, false)
const act = computed(() => {
  const c = props.copy
  if (!c.text) return 'home.open' // a picture, say: it isn't written in here
  if (c.level !== 'edit' && c.level !== 'owner') return 'home.read'
  return c.state === 'working' ? 'home.carry-on' : 'home.begin'
})
</script>

<template>
  <div class="i" :data-copy="copy.title">
    <TagMark :state="copy.state" :fill="copy.fill" bare />
    <div>
      <RouterLink class="title" :to="at(copy.thing)">{{ copy.title }}</RouterLink><span class="quiet">{{ line }}</span>
      <p v-if="copy.message" class="said"><LinkedText :text="copy.message" /></p>
      <RouterLink
        v-if="copy.mates && copy.of !== 'class' && !looking"
        class="said"
        :to="`/mates/${copy.handout}`"
        data-act="mates"
        >{{ t('notice.mates') }}</RouterLink
      >
      <details v-if="copy.instructionsHtml || copy.links.length" class="said">
        <summary>{{ t('notice.more') }}</summary>
        <WithIt :html="copy.instructionsHtml" :links="copy.links" />
      </details>
    </div>
    <RouterLink class="btn" :class="{ go }" :to="at(copy.thing)" :aria-label="`${t(act)}: ${copy.title}`">{{
      t(act)
    }}</RouterLink>
  </div>
</template>

<style scoped>
.said {
  margin: 4px 0 0;
  font-size: 14.5px;
  overflow-wrap: anywhere;
}
.i {
  display: grid;
  grid-template-columns: 76px minmax(0, 1fr) auto;
  gap: 8px;
  align-items: center;
  padding: 14px 18px;
  border-bottom: 1px solid var(--thread-2);
  font-size: 15.5px;
}
.i:last-child {
  border: 0;
}
.i .title {
  font-weight: 650;
  font-size: 17px;
  display: flex;
  align-items: flex-end;
  color: var(--ink);
}
.i svg {
  transform: scale(1.35);
  transform-origin: left;
  margin-left: 8px;
}
.btn {
  font-weight: 600;
  font-size: 14.5px;
  line-height: 1;
  padding: 11px 15px;
  border-radius: 6px;
  border: 1px solid var(--thread);
  background: var(--sheet);
  color: var(--ink);
  white-space: nowrap;
}
.btn.go {
  background: var(--leather);
  border-color: var(--leather);
  color: var(--on-leather);
}
@media (max-width: 900px) {
  .i {
    grid-template-columns: 72px minmax(0, 1fr);
    padding: 14px 12px;
  }
  .i .btn {
    grid-column: 2;
    justify-self: start;
  }
}
</style>
