<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useActing } from '@/parts/acting'
import { isOwn, useFieldName } from '@/parts/fieldName'
import PickOne from '@/parts/PickOne.vue'
import { plainName } from '@/parts/plainName'
import { sentence, tellDone } from '@/tell'
import EffectsText from './EffectsText.vue'
import PickFolder from './PickFolder.vue'

/** Puts chosen things of a class each to its own place: a sentence, and beside it what it comes to. */
const props = defineProps<{ chosen: Of<'ThingTag'>[]; folder: Of<'Thing'>; classId: string }>()
const emit = defineEmits<{ done: []; close: [] }>()
const { t } = useI18n()
const fieldName = useFieldName()
type Place = { id: string; name: string }
const by = ref('') // a column; empty: their satchels
const into = ref<Place>({ id: props.folder.id, name: props.folder.name })
const rest = ref<Place | null>(null)
const picking = ref<'' | 'into' | 'rest'>('')
const { busy, problem, act } = useActing()
const { data: cls } = useQuery({
  queryKey: computed(() => keys.class(props.classId)),
  queryFn: () => data(api.GET('/classes/{classId}', { params: { path: { classId: props.classId } } })),
})
const ways = computed(() => [
  { value: '', label: t('spread.satchel') },
  ...(cls.value?.columns ?? [])
    .filter((c) => !isOwn(c.field))
    .map((c) => ({ value: c.field, label: t('spread.column', { column: fieldName(c.field) }) })),
])
const asked = computed(() => ({
  things: props.chosen.map((x) => x.id),
  by: by.value || undefined,
  to: by.value ? into.value.id : undefined,
  rest: rest.value?.id,
}))
const { data: look, error } = useQuery({
  queryKey: computed(() => keys.spread(asked.value)),
  queryFn: () => data(api.POST('/spread/preview', { body: asked.value })),
  placeholderData: (old) => old,
  staleTime: 0,
  retry: false,
})
const names = (ids: string[]) =>
  ids.map((id) => plainName(props.chosen.find((x) => x.id === id)?.name ?? '')).join(', ')
const moving = computed(() => (look.value?.to ?? []).reduce((n, to) => n + to.things.length, 0))
const staying = computed(() => {
  const why = new Map<string, string[]>()
  for (const s of look.value?.stay ?? []) why.set(s.why, [...(why.get(s.why) ?? []), s.thing])
  return [...why]
})
async function pick(id: string): Promise<string> {
  const thing = await act(() => data(api.GET('/things/{thingId}', { params: { path: { thingId: id } } })))
  if (!thing) return problem.value
  if (picking.value === 'into') into.value = { id, name: thing.name }
  else rest.value = { id, name: thing.name }
  picking.value = ''
  return ''
}
async function spread() {
  const stayed = await act(() => data(api.POST('/spread', { body: { ...asked.value, seen: look.value?.seen } })))
  if (!stayed) return
  tellDone(
    stayed.length
      ? t('spread.done-but', { n: moving.value - stayed.length, names: names(stayed.map((s) => s.thing)) })
      : t('spread.done', { n: moving.value }, moving.value),
  )
  emit('done')
}
</script>

<template>
  <div class="spread" data-form="spread" @keydown.esc.stop="emit('close')">
    <p class="said">
      {{ t('spread.put') }}
      <PickOne v-model="by" :options="ways" :label="t('spread.put')" /><template v-if="by">
        {{ t('spread.in') }}
        <button class="link" data-act="spread-into" @click="picking = 'into'">
          {{ into.name }}
        </button> </template
      >. {{ t('spread.rest') }}
      <button class="link" data-act="spread-rest" @click="picking = 'rest'">
        {{ rest ? t('spread.goes', { name: rest.name }) : t('spread.stays') }}</button>.<button
        v-if="rest"
        type="button"
        class="link let"
        @click="rest = null"
      >
        {{ t('spread.let-stay') }}
      </button>
    </p>
    <PickFolder v-if="picking" :choose="pick" :begin="folder.id" keep @close="picking = ''" />
    <p v-if="error" class="bad" role="alert">{{ sentence(error) }}</p>
    <template v-else-if="look">
      <ul class="to">
        <li v-for="(to, i) in look.to" :key="i">
          <b
            ><bdi>{{ to.name }}</bdi></b
          ><span v-if="to.fresh" class="quiet"> · {{ t('spread.fresh') }}</span>
          <span class="what">{{ names(to.things) }}</span>
        </li>
        <li v-for="[why, ids] in staying" :key="why" class="quiet" :data-stay="why">
          {{ t(`spread.${why}`) }} <span class="what">{{ names(ids) }}</span>
        </li>
      </ul>
      <EffectsText :of="look.effects" />
    </template>
    <p v-if="problem && !picking" class="bad" role="alert">{{ problem }}</p>
    <div class="row">
      <Button
        type="primary"
        size="small"
        :loading="busy && !picking"
        :disabled="!moving || !!error"
        data-act="spread"
        @click="spread"
        >{{ t('spread.move', { n: moving }, moving) }}</Button
      >
      <Button size="small" @click="emit('close')">{{ t('act.cancel') }}</Button>
    </div>
  </div>
</template>

<style scoped>
.spread {
  display: grid;
  gap: 8px;
}
.said {
  line-height: 1.9;
}
.said select {
  margin: 0 4px;
}
.let {
  margin-left: 8px;
}
.to {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 260px;
  overflow-y: auto;
}
.to li {
  padding: 2px 0;
}
.what {
  margin-left: 8px;
  overflow-wrap: anywhere;
}
.row {
  display: flex;
  gap: 9px;
}
</style>
