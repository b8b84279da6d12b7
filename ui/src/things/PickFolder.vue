<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data } from '@/api/client'
import { keys } from '@/api/keys'
import { useActing } from '@/parts/acting'
import { useRested } from '@/parts/rested'

/** Choose a folder: by looking through those there are, by its link, or by making one on the spot. */
const props = defineProps<{
  choose: (id: string) => Promise<string>
  /** Where looking begins: the folder something is in. Then it can't be put at the top. */
  start?: { id: string }
  /** Where looking begins, without that. */
  begin?: string
  /** Anyone who chose closes it. */
  keep?: boolean
}>()
const emit = defineEmits<{ close: [] }>()
const { t } = useI18n()
const queries = useQueryClient()
const at = ref(props.start?.id ?? props.begin ?? '')
const find = ref('')
const name = ref('')
const link = ref('')
const { busy, problem, act } = useActing()
const { data: list } = useQuery({
  queryKey: computed(() => keys.folders(at.value)),
  queryFn: () => data(api.GET('/folders', { params: { query: { in: at.value || undefined } } })),
  placeholderData: (old) => old,
})
const here = computed(() => list.value?.path.at(-1))
// What is typed is looked for everywhere.
const looked = useRested(find)
const { data: found } = useQuery({
  queryKey: computed(() => keys.folders('find', looked.value)),
  queryFn: () => data(api.GET('/folders', { params: { query: { find: looked.value } } })),
  enabled: computed(() => !!looked.value),
  placeholderData: (old) => old,
})
const finding = computed(() => !!find.value.trim())
const shown = computed(() =>
  finding.value ? (looked.value && found.value?.folders) || [] : (list.value?.folders ?? []),
)
function go(id: string) {
  at.value = id
  find.value = ''
  problem.value = ''
}
async function take(id: string) {
  busy.value = true
  problem.value = await props.choose(id)
  busy.value = false
  if (!problem.value && !props.keep) emit('close')
}
async function byLink() {
  const code = link.value.trim().split(/[?#]/)[0].split('/').filter(Boolean).at(-1) ?? ''
  const thing = await act(() => data(api.GET('/links/{link}', { params: { path: { link: code } } })))
  if (thing) await take(thing.id)
}
async function make() {
  const made = await act(() => data(api.POST('/folders', { body: { in: at.value || undefined, name: name.value } })))
  if (!made) return
  name.value = ''
  await queries.invalidateQueries({ queryKey: keys.folders() })
  go(made.id)
}
</script>

<template>
  <div class="picker" data-form="folder" @keydown.esc.stop="$emit('close')">
    <p class="way">
      <button class="link" @click="go('')">{{ t('folder.top') }}</button>
      <template v-for="f in list?.path" :key="f.id">
        › <button class="link" @click="go(f.id)">{{ f.name }}</button></template
      >
    </p>
    <Input v-model:value="find" size="small" :placeholder="t('folder.find')" :aria-label="t('folder.find')" />
    <ul>
      <li v-for="f in shown" :key="f.id">
        <button class="plain pick" @click="go(f.id)">
          <bdi>{{ f.name }}</bdi><span v-if="finding && f.within" class="quiet">
            · {{ t('folder.within', { within: f.within }) }}</span
          ><span v-if="!f.write" class="quiet"> · {{ t('folder.read-only') }}</span>
        </button>
      </li>
      <template v-if="finding">
        <li v-if="found && looked === find.trim() && !shown.length" class="quiet none">
          {{ t('folder.none-found', { text: looked }) }}
        </li>
        <li v-if="found?.further" class="quiet none">{{ t('folder.further') }}</li>
      </template>
      <template v-else>
        <li v-if="list && !shown.length" class="quiet none">{{ t('folder.none') }}</li>
        <li v-if="list?.more" class="quiet none">{{ t('folder.more', { n: list.more }) }}</li>
      </template>
    </ul>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
    <div class="row">
      <Button
        type="primary"
        size="small"
        :loading="busy"
        :disabled="here ? !here.write || here.id === start?.id : !!start"
        data-act="take-folder"
        @click="take(at)"
        >{{ here ? t('folder.take', { name: here.name }) : t('folder.take-top') }}</Button
      >
      <Button size="small" @click="$emit('close')">{{ t('act.cancel') }}</Button>
    </div>
    <form class="row" @submit.prevent="make">
      <Input
        v-model:value="name"
        size="small"
        :placeholder="t('folder.new')"
        :aria-label="t('folder.new')"
        :maxlength="120"
      />
      <Button size="small" html-type="submit" :disabled="!name.trim()">{{ t('folder.make') }}</Button>
    </form>
    <form class="row" @submit.prevent="byLink">
      <Input v-model:value="link" size="small" :placeholder="t('folder.link')" :aria-label="t('folder.link')" />
      <Button size="small" html-type="submit" :disabled="!link.trim()">{{ t('folder.by-link') }}</Button>
    </form>
  </div>
</template>

<style scoped>
.picker {
  display: grid;
  gap: 7px;
  border: 1.5px solid var(--leather);
  border-radius: 6px;
  background: var(--sheet);
  padding: 10px 12px;
  margin: 4px 0 8px;
  font-size: 14px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 190px;
  overflow-y: auto;
}
.pick {
  width: 100%;
  text-align: left;
  padding: 3px 6px;
  border-radius: 5px;
}
.pick:hover {
  background: var(--leather-soft);
}
.none {
  padding: 3px 6px;
}
.row {
  display: flex;
  gap: 8px;
}
</style>
