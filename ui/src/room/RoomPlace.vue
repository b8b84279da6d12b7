<script setup lang="ts">
import { Button, Checkbox, Input } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { useFieldName } from '@/parts/fieldName'
import PickOne from '@/parts/PickOne.vue'
import { useClass } from '@/class/theClass'

/** One place of the plan, to be changed; without one, a new place. */
const props = defineProps<{
  place?: Of<'Place'>
  places: Of<'Place'>[]
  columns: string[]
  problem: string
}>()
const emit = defineEmits<{
  add: [to: Of<'PlaceParts'>]
  change: [to: Of<'PlaceParts'>, was: Of<'PlaceParts'>]
  remove: []
  close: []
}>()
const { t } = useI18n()
const fieldName = useFieldName()
type Whom = Of<'Place'>['for']
const name = ref(props.place?.called ?? '')
const whom = ref<string>(props.place ? props.place.for : 'class')
const level = ref<string>(props.place?.level || 'read')
const handIn = ref(props.place?.handIn ?? false)
// The column that has teams in it already, else the first of the list's own.
const { cls } = useClass()
const usual = cls.value?.teams.length ? 'team' : (props.columns.find((c) => c.startsWith('extra:')) ?? 'team')
const teams = ref(props.place?.teams || usual)
const under = ref(props.place?.under ?? '')

const fixed = computed(() => props.place?.needed ?? false)
const whoms = computed(() =>
  ['class', 'team', 'student', 'staff'].map((v) => ({ value: v, label: t(`place.for-${v}`) })),
)
const levels = computed(() => ['read', 'comment', 'edit'].map((v) => ({ value: v, label: t(`place.level-${v}`) })))
// Only what may hold it: all that is in a place is open to anyone who reaches the place.
const rank = (l: string) => ['', 'read', 'comment', 'edit'].indexOf(l)
const inside = (id: string): boolean => {
  for (let at = props.places.find((p) => p.id === id); at; at = props.places.find((p) => p.id === at!.under))
    if (at.id === props.place?.id) return true
  return false
}
const holders = computed(() => [
  { value: '', label: t('place.top') },
  ...props.places
    .filter((p) => p.id !== 'cloakroom' && !inside(p.id))
    .filter(
      (p) =>
        p.for === 'staff' ||
        (p.for === whom.value &&
          rank(level.value) >= rank(p.level) &&
          (whom.value !== 'team' || p.teams === teams.value)),
    )
    .map((p) => ({ value: p.id, label: p.called })),
])
const teamColumns = computed(() =>
  props.columns.filter((c) => c === 'team' || c.startsWith('extra:')).map((c) => ({ value: c, label: fieldName(c) })),
)
const parts = (): Of<'PlaceParts'> => ({
  name: name.value,
  for: whom.value as Whom,
  level: whom.value === 'staff' ? '' : (level.value as Of<'Place'>['level']),
  handIn: whom.value === 'student' && handIn.value,
  teams: whom.value === 'team' ? teams.value : '',
  under: holders.value.some((h) => h.value === under.value) ? under.value : '',
})
function done() {
  const to = parts()
  const p = props.place
  if (!p) return emit('add', to)
  const was: Of<'PlaceParts'> = {
    name: p.name,
    for: p.for,
    level: p.level,
    handIn: p.handIn,
    teams: p.teams,
    under: p.under,
  }
  // A usual place that is called as usual stays so.
  if (p.usual && to.name === p.called) to.name = p.name
  const changed = (Object.keys(to) as (keyof Of<'PlaceParts'>)[]).filter((k) => to[k] !== was[k])
  if (!changed.length) return emit('close')
  const only = (all: Of<'PlaceParts'>) =>
    Object.fromEntries(changed.map((k) => [k, all[k]])) as unknown as Of<'PlaceParts'>
  emit('change', only(to), only(was))
}
</script>

<template>
  <form v-focus class="place" data-form="place" @submit.prevent="done" @keydown.esc.stop="$emit('close')">
    <label>
      <span>{{ t('place.name') }}</span>
      <Input v-model:value="name" size="small" :maxlength="120" :aria-label="t('place.name')" />
    </label>
    <label>
      <span>{{ t('place.for') }}</span>
      <PickOne v-model="whom" :options="whoms" :label="t('place.for')" :disabled="fixed" />
    </label>
    <label v-if="whom === 'team'">
      <span>{{ t('place.teams') }}</span>
      <PickOne v-model="teams" :options="teamColumns" :label="t('place.teams')" />
    </label>
    <Checkbox v-if="whom === 'student' && !fixed" v-model:checked="handIn" class="tick">{{
      t('place.hand-in')
    }}</Checkbox>
    <label v-if="whom !== 'staff' && !handIn && !fixed">
      <span>{{ t('place.level') }}</span>
      <PickOne v-model="level" :options="levels" :label="t('place.level')" />
    </label>
    <label v-if="!fixed">
      <span>{{ t('place.under') }}</span>
      <PickOne v-model="under" :options="holders" :label="t('place.under')" />
    </label>
    <p class="quiet says">{{ handIn ? t('place.says-hand-in') : t(`place.says-${whom}`) }}</p>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
    <div class="acts">
      <Button type="primary" size="small" html-type="submit" :disabled="!name.trim()" data-act="keep-place">{{
        place ? t('act.done') : t('place.add')
      }}</Button>
      <Button size="small" @click="$emit('close')">{{ t('act.cancel') }}</Button>
      <span class="grow" />
      <button v-if="place && !fixed" type="button" class="link" data-act="remove-place" @click="$emit('remove')">
        {{ t('place.remove') }}
      </button>
    </div>
  </form>
</template>

<style scoped>
.place {
  display: grid;
  gap: 6px;
  border: 1.5px solid var(--leather);
  border-radius: 6px;
  background: var(--sheet);
  padding: 10px 12px;
  margin: 4px 0 8px;
  font-size: 14px;
}
.place > label:not(.tick) {
  display: grid;
  grid-template-columns: 92px minmax(0, 1fr);
  align-items: center;
  gap: 8px;
}
.tick {
  margin-left: 100px;
}
.says {
  margin-left: 100px;
}
.acts {
  display: flex;
  gap: 8px;
  align-items: center;
}
</style>
