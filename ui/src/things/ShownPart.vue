<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { me } from '@/me'
import { useActing } from '@/parts/acting'
import { tellDone } from '@/tell'
import { ago, exact, moment } from '@/when'

/** States of a draft that are to be looked at: a student shows one, staff look at it; the draft goes on. */
const props = defineProps<{ thing: Of<'Thing'> }>()
const { t } = useI18n()
const queries = useQueryClient()
const path = computed(() => ({ path: { thingId: props.thing.id } }))
const { data: shown } = useQuery({
  queryKey: computed(() => keys.shown(props.thing.id)),
  queryFn: () => data(api.GET('/things/{thingId}/shown', { params: path.value })),
})
const staff = computed(() => me.value?.role !== 'student')
const newest = computed(() => shown.value?.all[0])
const saying = ref(false)
const word = ref('')
const { busy, problem, act } = useActing()
const again = () => queries.invalidateQueries({ queryKey: keys.shown(props.thing.id) })
const show = () =>
  act(async () => {
    await api.POST('/things/{thingId}/shown', { params: path.value, body: { word: word.value } })
    saying.value = false
    word.value = ''
    await again()
    tellDone(t(staff.value ? 'shown.kept' : 'shown.done'))
  })
// One is looked at in place, without anything being written over.
const looking = ref(0)
const { data: text } = useQuery({
  queryKey: computed(() => keys.version(props.thing.id, looking.value)),
  enabled: computed(() => looking.value > 0),
  queryFn: () =>
    data(api.GET('/things/{thingId}/text', { params: { ...path.value, query: { version: looking.value } } })),
})
watch(text, async (x) => {
  const state = shown.value?.all.find((s) => s.version === looking.value)
  if (!x || !staff.value || !state || state.seenAt) return
  await api.POST('/things/{thingId}/shown/{version}', {
    params: { path: { thingId: props.thing.id, version: looking.value } },
  })
  await Promise.all([again(), queries.invalidateQueries({ queryKey: keys.classes() })])
})
const since = computed(() => {
  if (!shown.value || shown.value.since === undefined) return ''
  return shown.value.since ? t('shown.since', { n: shown.value.since }, shown.value.since) : ''
})
const seen = (s: Of<'ShownState'>) =>
  s.seenAt
    ? t('shown.seen', { name: s.seenBy, when: ago(Date.parse(s.seenAt), t) })
    : s.asked
      ? t('shown.not-seen')
      : ''
const what = (s: Of<'ShownState'>) =>
  t(s.asked ? (staff.value ? 'shown.asked-by' : 'shown.asked') : s.by ? 'shown.kept-by' : 'shown.kept-itself', {
    name: s.by,
    when: moment(Date.parse(s.at)),
  })
</script>

<template>
  <section v-if="shown?.may && (!staff || shown.all.length)" class="shown no-print" data-part="shown">
    <p v-if="newest" :class="{ wait: newest.asked && !newest.seenAt && staff }">
      <span :title="exact(Date.parse(newest.at))">{{ what(newest) }}</span><template v-if="newest.word">
        <q
          ><bdi>{{ newest.word }}</bdi></q
        ></template
      >
      <span class="quiet">{{ [seen(newest), since].filter(Boolean).join(' ') }}</span>
      <button
        v-if="thing.text"
        class="link"
        data-act="look-at"
        :aria-expanded="looking === newest.version"
        @click="looking = looking === newest.version ? 0 : newest.version"
      >
        {{ t(looking === newest.version ? 'shown.close' : 'shown.look') }}
      </button>
    </p>
    <!-- The server renders and cleans this HTML: no script, style or form is left in it. -->
    <!-- eslint-disable-next-line vue/no-v-html -->
    <article v-if="looking && text" class="sheet text" data-part="looked-at" v-html="text.html" />
    <details v-if="shown.all.length > 1">
      <summary>{{ t('shown.earlier', { n: shown.all.length - 1 }, shown.all.length - 1) }}</summary>
      <ul>
        <li v-for="s in shown.all.slice(1)" :key="s.version">
          {{ what(s) }} <q v-if="s.word">{{ s.word }}</q> <span class="quiet">{{ seen(s) }}</span>
          <button v-if="thing.text" class="link" @click="looking = looking === s.version ? 0 : s.version">
            {{ t(looking === s.version ? 'shown.close' : 'shown.look') }}
          </button>
        </li>
      </ul>
    </details>
    <template v-if="!staff && newest?.version !== shown.version">
      <Button v-if="!saying" data-act="show-draft" @click="saying = true">{{ t('shown.ask') }}</Button>
      <form v-else v-focus data-form="show" @submit.prevent="show">
        <label
          >{{ t('shown.word') }}
          <Input v-model:value="word" :maxlength="200" data-field="word" />
        </label>
        <p class="quiet">{{ t('shown.help') }}</p>
        <div class="acts">
          <Button type="primary" html-type="submit" :loading="busy" data-act="show-now">{{ t('shown.do') }}</Button>
          <Button :disabled="busy" @click="saying = false">{{ t('act.cancel') }}</Button>
        </div>
      </form>
    </template>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
  </section>
</template>

<style scoped>
.shown {
  border-left: 3px solid var(--tide-soft);
  padding: 2px 0 2px 14px;
  margin-bottom: 14px;
  display: grid;
  gap: 8px;
  justify-items: start;
}
.wait {
  font-weight: 600;
}
form {
  display: grid;
  gap: 8px;
  width: min(100%, 520px);
}
.acts {
  display: flex;
  gap: 8px;
}
ul {
  margin: 4px 0 0;
  padding-left: 18px;
}
.text {
  background: var(--sheet);
  border: 1px solid var(--thread);
  border-radius: 8px;
  padding: 12px 18px;
  width: 100%;
}
</style>
