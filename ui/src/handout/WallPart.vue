<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import { wall } from '@/when'
import { useI18n } from 'vue-i18n'
import type { Hand } from './handout'
import { useClass } from '@/class/theClass'

/** A time of the sentence, by the school's clocks, or none. */
const props = defineProps<{
  hand: Hand
  part: 'due' | 'send'
  label: string
  none: string
  /** What is proposed. */
  usual: () => string
}>()
const { h, open, change } = props.hand
const typed = props.hand[props.part]
const { mayPack } = useClass()
const { t } = useI18n()
const now = computed(() => h.value?.[props.part] ?? '')
function begin() {
  typed.value = now.value || props.usual()
  open.value = props.part
  if (!now.value) void change({ [props.part]: typed.value }, props.part)
}
function clear() {
  open.value = ''
  void change({ [props.part]: '' }, props.part)
}
</script>

<template>
  <span class="end">
    <button v-if="open !== part" class="plain u" :disabled="!mayPack" :data-part="part" @click="begin">
      {{ now ? wall(now) : none }}
    </button>
    <span v-else class="when">
      <input
        v-model="typed"
        v-focus
        type="datetime-local"
        class="field"
        :aria-label="label"
        @keydown.enter="open = ''"
      />
      <Button size="small" @click="open = ''">{{ t('act.done') }}</Button>
      <Button size="small" type="text" :data-act="`no-${part}`" @click="clear">{{ none }}</Button> </span
    >.</span
  >
</template>

<style scoped>
.end {
  white-space: nowrap;
}
.end > * {
  white-space: normal;
}
.when {
  display: inline-flex;
  gap: 6px;
  align-items: center;
}
.field {
  font: inherit;
  font-size: 15px;
  border: 1px solid var(--line-field);
  border-radius: 6px;
  padding: 3px 8px;
  background: var(--sheet);
  color: var(--ink);
}
</style>
