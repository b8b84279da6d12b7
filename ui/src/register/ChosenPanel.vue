<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { valueOf } from '@/parts/columnValues'
import ChosenActs from './ChosenActs.vue'
import { useFieldName } from '@/parts/fieldName'

/** Students that are chosen in the list, and what can be done with all of them. */
const props = defineProps<{ classId: string; picked: Of<'RosterRow'>[]; rows: Of<'RosterRow'>[]; mayChange: boolean }>()
const emit = defineEmits<{ edit: [edits: Of<'RosterEdit'>[]]; teams: []; leave: []; back: [] }>()
const { t } = useI18n()
const bulkField = ref('level')
const bulkValue = ref('')
const setAll = () =>
  emit(
    'edit',
    props.picked
      .filter((r) => !r.left)
      .map((r) => ({ row: r.row, field: bulkField.value, value: bulkValue.value, was: valueOf(r, bulkField.value) })),
  )
const fieldName = useFieldName()
const bulkFields = computed(() => [
  'period',
  'level',
  'team',
  ...new Set(props.rows.flatMap((r) => Object.keys(r.extra).map((x) => `extra:${x}`))),
])
</script>

<template>
  <div>
    <h2>{{ t('grid.chosen-n', { n: picked.length }, picked.length) }}</h2>
    <p class="quiet names">{{ picked.map((r) => r.name).join(', ') }}</p>
    <template v-if="mayChange">
      <ChosenActs :class-id="classId" :rows="picked.filter((r) => !r.left).map((r) => r.row)" />
      <form class="bulk" @submit.prevent="setAll">
        <span>{{ t('grid.set-for') }}</span>
        <select v-model="bulkField" class="pick-one" :aria-label="t('choice.column')">
          <option v-for="f in bulkFields" :key="f" :value="f">{{ fieldName(f) }}</option>
        </select>
        <Input v-model:value="bulkValue" size="small" :placeholder="t('grid.value')" :aria-label="t('grid.value')" />
        <Button size="small" html-type="submit" data-act="set-all">{{ t('grid.set') }}</Button>
      </form>
      <div class="acts">
        <Button size="small" @click="emit('teams')">{{ t('grid.teams') }}</Button>
        <Button v-if="picked.some((r) => !r.left)" size="small" data-act="leave" @click="emit('leave')">{{
          t('grid.leave', { n: picked.filter((r) => !r.left).length }, picked.filter((r) => !r.left).length)
        }}</Button>
        <Button v-if="picked.some((r) => r.left)" size="small" data-act="back" @click="emit('back')">{{
          t('grid.back')
        }}</Button>
      </div>
    </template>
  </div>
</template>

<style scoped>
.acts {
  display: flex;
  gap: 10px;
  align-items: center;
  flex-wrap: wrap;
}
.names {
  margin: 6px 0 12px;
  font-size: 14px;
}
.bulk {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr) auto;
  gap: 6px;
  margin-bottom: 12px;
}
.bulk span {
  grid-column: 1 / -1;
}
</style>
