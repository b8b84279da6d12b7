<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { computed, nextTick, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { useActing } from '@/parts/acting'
import { plainName } from '@/parts/plainName'
import { ago } from '@/when'
import EffectsText from './EffectsText.vue'
import PickFolder from './PickFolder.vue'
import SpreadForm from './SpreadForm.vue'

/** What can be done with chosen things of a folder: another name, another place, the bin. */
const props = defineProps<{ chosen: Of<'ThingTag'>[]; folder: Of<'Thing'> }>()
const emit = defineEmits<{ done: []; clear: [] }>()
const { t } = useI18n()
const doing = ref<'' | 'name' | 'move' | 'spread' | 'bin'>('')
const name = ref('')
const inside = ref<Of<'Inside'>[]>([])
const { busy, problem, act } = useActing()
const ids = computed(() => props.chosen.map((x) => x.id))
function done() {
  doing.value = ''
  emit('done')
}
function rename() {
  name.value = plainName(props.chosen[0].name)
  doing.value = 'name'
  void nextTick(() => document.querySelector<HTMLInputElement>('.arrange input')?.focus())
}
async function keepName() {
  const ok = await act(() =>
    api.PUT('/things/{thingId}/name', { params: { path: { thingId: ids.value[0] } }, body: { name: name.value } }),
  )
  if (ok) done()
}
// Who would reach it, or no longer, is said before anything moves.
const effects = ref<{ to: string; of: Of<'MoveEffects'> } | null>(null)
async function ask(to: string): Promise<string> {
  const of = await act(() => data(api.POST('/move/effects', { body: { things: ids.value, to } })))
  if (!of) return problem.value
  if (!of.gain.length && !of.lose.length) return move(to)
  effects.value = { to, of }
  return ''
}
async function move(to: string): Promise<string> {
  effects.value = null
  await act(async () => {
    await api.POST('/move', { body: { things: ids.value, to } })
    done()
  })
  return problem.value
}
async function askBin() {
  const all = await act(() =>
    Promise.all(
      ids.value.map((id) => data(api.GET('/things/{thingId}/inside', { params: { path: { thingId: id } } }))),
    ),
  )
  if (!all) return
  inside.value = all
  doing.value = 'bin'
}
const things = computed(() => inside.value.reduce((n, i) => n + i.folders + i.files, 0))
const newest = computed(() =>
  inside.value
    .map((i) => i.newest)
    .filter(Boolean)
    .sort()
    .at(-1),
)
const owners = computed(() => {
  const by = new Map<string, number>()
  for (const i of inside.value) for (const o of i.of) by.set(o.name, (by.get(o.name) ?? 0) + o.things)
  return [...by].map(([who, n]) => t('arrange.of', { who, n })).join(', ')
})
async function bin() {
  const ok = await act(() => api.POST('/bin', { body: { things: ids.value, inside: things.value } }))
  if (ok) done()
}
</script>

<template>
  <div class="arrange" data-form="arrange">
    <div class="row">
      <b>{{ t('arrange.chosen', { n: chosen.length }, chosen.length) }}</b>
      <Button v-if="chosen.length === 1" size="small" data-act="rename" @click="rename">{{
        t('arrange.rename')
      }}</Button>
      <Button size="small" data-act="move" @click="doing = 'move'">{{ t('arrange.move') }}</Button>
      <Button v-if="folder.classId" size="small" data-act="move-each" @click="doing = 'spread'">{{
        t('arrange.move-each')
      }}</Button>
      <Button
        v-if="chosen.every((x) => x.arrange === 'all')"
        size="small"
        data-act="bin"
        :loading="busy && !doing"
        @click="askBin"
        >{{ t('arrange.bin') }}</Button
      >
      <button class="link" @click="$emit('clear')">{{ t('arrange.clear') }}</button>
    </div>
    <form v-if="doing === 'name'" class="row" @submit.prevent="keepName" @keydown.esc="doing = ''">
      <Input v-model:value="name" size="small" class="name" :aria-label="t('arrange.name')" :maxlength="200" />
      <Button size="small" type="primary" html-type="submit" :loading="busy" :disabled="!name.trim()">{{
        t('act.done')
      }}</Button>
      <Button size="small" @click="doing = ''">{{ t('act.cancel') }}</Button>
    </form>
    <div v-if="effects" class="ask" data-effects>
      <EffectsText :of="effects.of" />
      <div class="row">
        <Button type="primary" size="small" :loading="busy" data-act="move-sure" @click="move(effects.to)">{{
          t('arrange.move-sure')
        }}</Button>
        <Button size="small" @click="effects = null">{{ t('act.cancel') }}</Button>
      </div>
    </div>
    <template v-else-if="doing === 'move'">
      <p class="quiet">{{ t('arrange.move-text') }}</p>
      <PickFolder :start="folder" :choose="ask" keep @close="doing = ''" />
    </template>
    <SpreadForm
      v-if="folder.classId && doing === 'spread'"
      :chosen="chosen"
      :folder="folder"
      :class-id="folder.classId"
      @done="done"
      @close="doing = ''"
    />
    <div v-if="doing === 'bin'" class="ask">
      <p>
        {{ t('arrange.inside', { n: things }, things) }}<template v-if="owners"> ({{ owners }})</template
        ><template v-if="newest">, {{ t('arrange.newest', { when: ago(Date.parse(newest), t) }) }}</template
        >. {{ t('arrange.bin-text') }}
      </p>
      <div class="row">
        <Button danger size="small" :loading="busy" data-act="bin-sure" @click="bin">{{
          t('arrange.bin-n', { n: chosen.length + things }, chosen.length + things)
        }}</Button>
        <Button size="small" @click="doing = ''">{{ t('act.cancel') }}</Button>
      </div>
    </div>
    <p v-if="problem && doing !== 'move'" class="bad" role="alert">{{ problem }}</p>
  </div>
</template>

<style scoped>
.arrange {
  background: var(--leather-soft);
  border-radius: 8px;
  padding: 9px 12px;
  margin-top: 10px;
  display: grid;
  gap: 8px;
}
.row {
  display: flex;
  gap: 9px;
  align-items: center;
  flex-wrap: wrap;
}
.name {
  max-width: 420px;
}
.ask {
  display: grid;
  gap: 7px;
}
</style>
