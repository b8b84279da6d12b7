<script setup lang="ts">
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { useReasons } from '@/reasons'

/** An address that nobody has, or somebody of another name; what mends it is beside it. */
const props = defineProps<{ row: Of<'RosterRow'>; mayChange: boolean }>()
const emit = defineEmits<{ edit: [Of<'RosterEdit'>[]]; confirm: [] }>()
const { t } = useI18n()
const { reasonText } = useReasons()
const short = (address: string) => address.replace(/@.*/, '@…')
const use = (suggestion: string) =>
  emit('edit', [{ row: props.row.row, field: 'address', value: suggestion, was: props.row.address }])
</script>

<template>
  <span v-if="row.problem" class="mend">
    <bdi>{{ row.address }}</bdi>
    <button
      v-if="mayChange && row.problem.args?.suggestion"
      class="link"
      :title="reasonText(row.problem)"
      @mousedown.stop
      @click="use(row.problem.args.suggestion)"
    >
      {{ t('list.use', { address: short(row.problem.args.suggestion) }) }}
    </button>
    <span v-else :class="row.waits ? 'brass' : 'bad'" :title="reasonText(row.problem)">
      {{ reasonText(row.problem) }}</span
    >
    <button
      v-if="mayChange && row.problem.code === 'account-other-name'"
      class="link"
      data-act="confirm"
      @mousedown.stop
      @click="emit('confirm')"
    >
      {{ t('grid.same-student') }}
    </button>
  </span>
</template>

<style scoped>
/* The address may be cut short; what mends it stays in sight. */
.mend {
  display: flex;
  gap: 6px;
}
.mend > bdi,
.mend > span {
  min-width: 3em;
  overflow: hidden;
  text-overflow: ellipsis;
}
.mend > :last-child {
  flex: none;
}
</style>
