<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { useRoster } from '@/api/queries'
import { useClass } from '@/class/theClass'
import { columnValues, valueOf } from '@/parts/columnValues'
import { isOwn, useFieldName } from '@/parts/fieldName'
import PickOne from '@/parts/PickOne.vue'

/** Students of the Register by the state of their copies and by what the class list says of them. */
const props = defineProps<{ reg: Of<'Register'> }>()
const emit = defineEmits<{ rows: [rows: Set<string> | null]; close: [] }>()
const { cls, classId } = useClass()
const { t } = useI18n()
const fieldName = useFieldName()
const { data: roster } = useRoster(classId)

const state = ref('')
const column = ref('')
const value = ref('') // field and value, with a line between
const idle = 'not-begun'
const satchel = 'satchel'
const states = computed(() => [
  { value: '', label: t('register.any-state') },
  { value: idle, label: t('register.idle') },
  ...(['working', 'stuck', 'not-made', 'waits', 'not-shared', 'out'] as const).map((s) => ({
    value: s,
    label: t(`state.${s}`),
  })),
])
const columns = computed(() => [
  { value: '', label: t('register.any-handout') },
  ...props.reg.columns.map((c) => ({
    value: c.handout || satchel,
    label: c.handout ? c.title : t('register.satchel'),
  })),
])
// What groups students: columns with a few values that several have.
const values = computed(() => [
  { value: '', label: t('register.any-student') },
  ...(cls.value?.columns ?? [])
    .map((c) => c.field)
    .filter((f) => !isOwn(f) && !['given', 'family', 'name', 'preferred', 'number', 'address'].includes(f))
    .flatMap((f) => {
      const all = columnValues(roster.value ?? [], f)
      return all.length > 1 && all.length <= 20
        ? all.map((v) => ({ value: `${f}\n${v}`, label: `${fieldName(f)}: ${v}` }))
        : []
    }),
])
const fits = (now: Of<'CellState'>) =>
  state.value === idle ? now === 'shared' || now === 'opened' : now === state.value
const rows = computed(() => {
  if (!state.value && !value.value) return null
  const [field, wanted] = value.value.split('\n')
  const listed = field && new Set((roster.value ?? []).filter((r) => valueOf(r, field) === wanted).map((r) => r.row))
  // A column is known by its handout: others can come before it while this is open.
  const of = props.reg.columns.filter((c) => (column.value ? (c.handout || satchel) === column.value : c.handout))
  return new Set(
    props.reg.students
      .filter((s, i) => (!listed || listed.has(s.row)) && (!state.value || of.some((c) => fits(c.states[i]))))
      .map((s) => s.row),
  )
})
watch(rows, (r) => emit('rows', r), { immediate: true })
</script>

<template>
  <div class="filter" data-form="filter">
    <PickOne v-model="state" v-focus :options="states" :label="t('register.any-state')" data-part="state" />
    <PickOne v-model="column" :options="columns" :label="t('register.any-handout')" data-part="column" />
    <PickOne
      v-if="values.length > 1"
      v-model="value"
      :options="values"
      :label="t('register.any-student')"
      data-part="value"
    />
    <span class="quiet" role="status">{{ rows ? t('class.count', { n: rows.size }, rows.size) : '' }}</span>
    <button class="link" data-act="no-filter" @click="emit('close')">{{ t('register.no-filter') }}</button>
  </div>
</template>

<style scoped>
.filter {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: center;
  margin: 0 24px 8px 0;
  font-size: 14px;
}
.link {
  min-height: 24px;
}
</style>
