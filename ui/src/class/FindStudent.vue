<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { plainKey, useKeys } from '@/keys'
import { useRested } from '@/parts/rested'

/** A student of any of one's classes, found by name from every page: theirs is opened with everything they have. */
const { t } = useI18n()
const route = useRoute()
const router = useRouter()
const text = ref('')
const asked = useRested(text)
const { data: found } = useQuery({
  queryKey: computed(() => keys.students(asked.value)),
  queryFn: () => data(api.GET('/students', { params: { query: { find: asked.value } } })),
  enabled: computed(() => !!asked.value),
})
const shown = computed(() => (text.value.trim() && asked.value === text.value.trim() ? found.value : undefined))
const at = ref(0)
watch(shown, () => (at.value = 0))
watch(
  () => route.fullPath,
  () => (text.value = ''),
)
const to = (s: Of<'FoundStudent'>) => ({
  name: 'register',
  params: { classId: s.class },
  query: { student: s.row },
})
const field = useTemplateRef<HTMLInputElement>('field')
function pressed(e: KeyboardEvent) {
  const all = shown.value ?? []
  if (e.key === 'Escape') text.value = ''
  else if (e.key === 'Enter' && all[at.value]) void router.push(to(all[at.value]))
  else if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
    e.preventDefault()
    at.value = Math.max(0, Math.min(all.length - 1, at.value + (e.key === 'ArrowDown' ? 1 : -1)))
  } else return
  e.stopPropagation()
}
// The Register looks through its own list with that key.
useKeys((e) => {
  if (e.key !== '/' || !plainKey(e) || route.name === 'register') return
  e.preventDefault()
  field.value?.focus()
})
</script>

<template>
  <div class="find">
    <input
      ref="field"
      v-model="text"
      type="search"
      role="combobox"
      aria-autocomplete="list"
      aria-controls="found-students"
      :aria-expanded="!!shown"
      :aria-activedescendant="shown?.length ? `found-${at}` : undefined"
      :aria-label="t('find.label')"
      :placeholder="t('find.student')"
      maxlength="100"
      data-act="find-student"
      @keydown="pressed"
    />
    <ul id="found-students" role="listbox" :aria-label="t('find.found')" :hidden="!shown">
      <li
        v-for="(s, i) in shown"
        :id="`found-${i}`"
        :key="s.row"
        role="option"
        :aria-selected="i === at"
        :data-found="s.name"
        @mousedown.prevent
        @click="router.push(to(s))"
      >
        <bdi>{{ s.name }}</bdi>
        <span
          >{{ s.className }}<template v-if="s.number"> · {{ s.number }}</template></span
        >
      </li>
      <li v-if="shown && !shown.length" class="quiet" role="option" aria-selected="false">{{ t('find.none') }}</li>
    </ul>
  </div>
</template>

<style scoped>
.find {
  position: relative;
  margin: 0 16px 8px;
}
input {
  width: 100%;
  min-height: 30px;
  font: inherit;
  font-size: 14px;
  color: var(--ink);
  background: var(--sheet);
  border: 1px solid var(--line-field);
  border-radius: 6px;
  padding: 3px 9px;
}
input::placeholder {
  color: var(--ink-3);
}
ul {
  position: absolute;
  z-index: 9;
  left: 0;
  top: calc(100% + 3px);
  width: 300px;
  max-width: calc(100vw - 32px);
  margin: 0;
  padding: 4px;
  list-style: none;
  background: var(--sheet);
  border: 1px solid var(--thread);
  border-radius: 8px;
  box-shadow: 0 6px 22px rgba(42, 35, 49, 0.16);
}
li {
  padding: 6px 9px;
  border-radius: 5px;
  font-size: 14px;
  cursor: pointer;
}
li[aria-selected='true'] {
  background: var(--leather-soft);
}
li.quiet {
  cursor: default;
}
li bdi {
  font-weight: 600;
}
li span {
  color: var(--ink-2);
  font-size: 13px;
}
</style>
