<script setup lang="ts">
import { Checkbox, Input } from 'ant-design-vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useFieldName } from './fieldName'
import PickOne from './PickOne.vue'
import PickSome from './PickSome.vue'

/**
 * Who is in: conditions on any column, hand picks on top, and at once who is caught and why. What is
 * put into it stands below, once they are there: it isn't pushed away by them.
 */
const props = defineProps<{
  classes: string[]
  columns: string[]
  values: (column: string) => string[]
  sitsOut?: string[]
}>()
const choice = defineModel<Of<'Choice'>>({ required: true })
const emit = defineEmits<{ chosen: [Of<'Chosen'>[]] }>()
const { t } = useI18n()
const tests = ['one-of', 'is', 'is-not', 'contains', 'starts-with', 'greater', 'smaller', 'empty', 'not-empty'] as const
const columnLabel = useFieldName()
const whole = (c: Of<'Condition'>) =>
  !!c.column && (c.test === 'empty' || c.test === 'not-empty' || c.values.some((v) => v.trim()))
const asked = computed(() => ({
  classes: props.classes,
  sitsOut: props.sitsOut,
  choice: { ...choice.value, conditions: choice.value.conditions.filter(whole) },
}))
const { data: outcome, isPending } = useQuery({
  queryKey: computed(() => keys.choose(asked.value)),
  queryFn: () => data(api.POST('/choose', { body: asked.value })),
  placeholderData: (before: Of<'Chosen'>[] | undefined) => before,
})
watch(outcome, (o) => o && emit('chosen', o), { immediate: true })
const inside = computed(() => (outcome.value ?? []).filter((o) => o.in))
const outside = computed(() => (outcome.value ?? []).filter((o) => !o.in))

const put = (conditions: Of<'Condition'>[]) => (choice.value = { ...choice.value, conditions })
const change = (i: number, part: Partial<Of<'Condition'>>) =>
  put(choice.value.conditions.map((c, n) => (n === i ? { ...c, ...part } : c)))
function add() {
  // The column that divides the class best comes first: few values, more than one.
  const divides = (c: string) => props.values(c).length > 1 && props.values(c).length <= 12
  const column =
    ['level', 'team', 'period', ...props.columns].find((c) => props.columns.includes(c) && divides(c)) ??
    props.columns[0]
  put([...choice.value.conditions, { column, test: 'one-of', values: [] }])
}
function tick(o: Of<'Chosen'>) {
  const ticked = { ...choice.value.ticked }
  if (o.row in ticked) delete ticked[o.row]
  else ticked[o.row] = !o.in
  choice.value = { ...choice.value, ticked }
}
const why = (o: Of<'Chosen'>) => {
  const c = asked.value.choice.conditions[o.failed]
  if (o.in || !c) return t(`choice.why-${o.reason}`)
  return t('choice.why-out', {
    column: columnLabel(c.column),
    test: t(`choice.${c.test}`),
    values: c.values.join(', '),
  })
}
const filter = ref('')
const shown = computed(() => {
  const needle = filter.value.trim().toLocaleLowerCase()
  return (outcome.value ?? []).filter((o) => !needle || o.name.toLocaleLowerCase().includes(needle))
})
</script>

<template>
  <div class="choice">
    <Checkbox
      :checked="!!choice.picked"
      data-act="picked"
      @update:checked="(on: boolean) => (choice = { ...choice, picked: on })"
      >{{ t('choice.picked') }}</Checkbox
    >
    <p v-if="choice.conditions.length" class="line">
      {{ t('choice.who') }}
      <PickOne
        v-if="choice.conditions.length > 1"
        :model-value="choice.any ? 'any' : 'all'"
        :label="t('choice.who')"
        :options="[
          { value: 'all', label: t('choice.all') },
          { value: 'any', label: t('choice.any') },
        ]"
        @update:model-value="(v) => (choice = { ...choice, any: v === 'any' })"
      />
    </p>
    <div v-for="(c, i) in choice.conditions" :key="i" class="condition" data-condition>
      <select
        class="pick-one"
        :value="c.column"
        :aria-label="t('choice.column')"
        @change="change(i, { column: ($event.target as HTMLSelectElement).value, values: [] })"
      >
        <option v-for="col in columns" :key="col" :value="col">{{ columnLabel(col) }}</option>
      </select>
      <select
        class="pick-one"
        :value="c.test"
        :aria-label="t('choice.test')"
        @change="
          change(i, {
            test: ($event.target as HTMLSelectElement).value as Of<'Condition'>['test'],
            values: c.values.slice(0, 1),
          })
        "
      >
        <option v-for="x in tests" :key="x" :value="x">{{ t(`choice.${x}`) }}</option>
      </select>
      <PickSome
        v-if="c.test === 'one-of'"
        class="values"
        :model-value="c.values"
        :label="t('choice.values')"
        :options="values(c.column)"
        @update:model-value="(v) => change(i, { values: v })"
      />
      <Input
        v-else-if="c.test !== 'empty' && c.test !== 'not-empty'"
        size="small"
        class="values"
        :value="c.values[0] ?? ''"
        :aria-label="t('choice.value')"
        :placeholder="t('choice.value')"
        @update:value="(v: string) => change(i, { values: [v] })"
      />
      <button class="link" :aria-label="t('choice.remove')" @click="put(choice.conditions.filter((_, n) => n !== i))">
        ×
      </button>
    </div>
    <p class="line">
      <button class="link" data-act="add-condition" @click="add">{{ t('choice.add') }}</button>
      <button
        v-if="choice.conditions.length || Object.keys(choice.ticked).length"
        class="link"
        @click="choice = { any: false, conditions: [], ticked: {} }"
      >
        {{ t('choice.clear') }}
      </button>
    </p>
    <p class="counts" aria-live="polite">
      <b data-in>{{ t('choice.in', { n: inside.length }) }}</b> ·
      <span data-out>{{ t('choice.out', { n: outside.length }) }}</span>
      <Input
        v-if="(outcome?.length ?? 0) > 12"
        v-model:value="filter"
        size="small"
        class="find"
        :placeholder="t('register.find')"
        :aria-label="t('register.find')"
      />
    </p>
    <ul>
      <li v-for="o in shown" :key="o.row" :class="{ out: !o.in }">
        <Checkbox
          :checked="o.in"
          :disabled="o.reason === 'left' || o.reason === 'sits-out'"
          :aria-label="t('choice.tick', { name: o.name })"
          @change="tick(o)"
        />
        <span class="name"
          ><bdi>{{ o.sortName }}</bdi> <span v-if="classes.length > 1" class="chip soft">{{ o.code }}</span></span
        >
        <span v-if="o.reason !== 'everybody' && !(o.in && o.reason === 'condition')" class="faint">{{ why(o) }}</span>
      </li>
    </ul>
    <slot v-if="!isPending" />
  </div>
</template>

<style scoped>
.choice {
  display: grid;
  gap: 7px;
  min-height: 0;
  font-size: 14px;
}
.line {
  display: flex;
  gap: 14px;
  align-items: baseline;
}
.condition {
  display: flex;
  flex-wrap: wrap;
  gap: 5px;
  align-items: center;
  border-left: 3px solid var(--tide-soft);
  padding-left: 8px;
}
.pick-one {
  max-width: 150px;
}
.values {
  flex: 1 1 110px;
  min-width: 100px;
}
.counts {
  display: flex;
  gap: 6px;
  align-items: baseline;
}
.find {
  width: 130px;
  margin-left: auto;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  overflow: hidden auto;
  max-height: 320px;
}
li {
  display: grid;
  grid-template-columns: 22px auto minmax(0, 1fr);
  gap: 6px;
  align-items: baseline;
  border-bottom: 1px solid var(--thread-2);
  padding: 2px 0;
}
li.out .name {
  color: var(--ink-3);
}
li .faint {
  font-size: 13px;
  text-align: right;
  overflow-wrap: anywhere;
}
</style>
