<script setup lang="ts">
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'

/** Who would reach things that are moved, and who no longer would. */
defineProps<{ of: Of<'MoveEffects'> }>()
const { t } = useI18n()
const some = (names: string[]) =>
  names.length > 6 ? `${names.slice(0, 6).join(', ')} ${t('ledger.more', { n: names.length - 6 })}` : names.join(', ')
</script>

<template>
  <p v-if="of.gain.length" data-gain>{{ t('arrange.gain', { names: some(of.gain) }) }}</p>
  <p v-if="of.lose.length" data-lose>{{ t('arrange.lose', { names: some(of.lose) }) }}</p>
  <p v-if="of.more" class="quiet">{{ t('arrange.more', { n: of.more }, of.more) }}</p>
</template>
