<script setup lang="ts">
import { computed, onBeforeUnmount, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { useRoster } from '@/api/queries'
import ChoiceBuilder from '@/parts/ChoiceBuilder.vue'
import { columnValues } from '@/parts/columnValues'
import { isOwn } from '@/parts/fieldName'
import type { Hand } from './handout'

/** Who of one class is in. A condition that is still being typed waits. */
const props = defineProps<{ hand: Hand; cls: Of<'Class'> }>()
const { h, open, problems, later } = props.hand
const { t } = useI18n()
const { data: rows } = useRoster(computed(() => props.cls.id))
// What is edited was looked at when this was opened.
const mine = open.value === 'who'
if (!mine) open.value = 'who'
onBeforeUnmount(() => !mine && (open.value = ''))
const choice = ref<Of<'Choice'>>(h.value?.choice ?? { any: false, conditions: [], ticked: {} })
function choose(c: Of<'Choice'>) {
  choice.value = c
  const whole = c.conditions.filter(
    (x) => x.test === 'empty' || x.test === 'not-empty' || x.values.some((v) => v.trim()),
  )
  later({ choice: { ...c, conditions: whole } }, 'choice')
}
</script>

<template>
  <div v-if="h" class="pop who" :data-who="cls.code">
    <ChoiceBuilder
      :model-value="choice"
      :classes="[cls.id]"
      :columns="cls.columns.map((c) => c.field).filter((f) => !isOwn(f))"
      :values="(column: string) => columnValues(rows ?? [], column)"
      :sits-out="h.out.filter((o) => o.reason === 'sits-out').map((o) => o.row)"
      @update:model-value="choose"
    >
      <p v-if="problems.choice" class="bad" role="alert">{{ problems.choice }}</p>
      <p class="quiet help">{{ t('say.who-help') }}</p>
      <slot />
    </ChoiceBuilder>
  </div>
</template>
