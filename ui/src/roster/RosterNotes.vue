<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { valueOf } from '@/parts/columnValues'
import { useFieldName } from '@/parts/fieldName'

/** What there is to know of a student of the list, and what a list says that isn't taken over yet. */
const props = defineProps<{ row: Of<'RosterRow'>; mayChange: boolean }>()
const emit = defineEmits<{ edit: [Of<'RosterEdit'>[]] }>()
const { t } = useI18n()
const fieldName = useFieldName()
const hint = computed(() =>
  [
    props.row.also.length && t('grid.also-in', { classes: props.row.also.join(', ') }),
    props.row.sitsOut.length && t('grid.sits-out', { titles: props.row.sitsOut.join(', ') }),
  ]
    .filter(Boolean)
    .join(' · '),
)
const takeOver = (m: Of<'Remark'>) =>
  emit('edit', [{ row: props.row.row, field: m.field, value: m.value, was: valueOf(props.row, m.field) }])
</script>

<template>
  <span class="faint" :title="hint">
    <RouterLink v-if="row.relink" class="relink" :to="{ name: 'room' }">{{ t('grid.relink') }}</RouterLink>
    <span v-for="m in row.remarks" :key="m.code + m.field" class="remark"
      >{{ t(`remark.${m.code}`, { ...m.args, field: fieldName(m.field) }) }}
      <button v-if="mayChange && !row.left" class="link" @click="takeOver(m)">{{ t('grid.take-over') }}</button></span
    >
    {{ hint }}
  </span>
</template>

<style scoped>
.relink,
.remark {
  margin-right: 12px;
}
.relink {
  color: var(--brick);
}
</style>
