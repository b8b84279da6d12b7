<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { past, wall } from '@/when'
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
const { cls, mayPack } = useClass()
const { t } = useI18n()
const now = computed(() => h.value?.[props.part] ?? '')
// A due time at which copies close isn't moved while it is typed: what that closes or opens is said first.
const careful = computed(() => props.part === 'due' && !!h.value?.packedAt && h.value.then === 'close' && !!now.value)
const draft = ref('')
const moves = computed(() => {
  if (!h.value || !draft.value || draft.value === now.value) return ''
  const spared = h.value.extra.filter((x) => !past(x.until)).length
  const out = new Set(h.value.out.map((o) => o.row))
  const closed = h.value.closed.filter((row) => !out.has(row)).length
  const all = (cls.value?.students ?? 0) - out.size - spared
  if (past(draft.value)) return t('say.moves-close', { n: Math.max(all - closed, 0) }, Math.max(all - closed, 0))
  return t('say.moves-open', { n: closed }, closed)
})
async function move() {
  if (draft.value && draft.value !== now.value) await change({ due: draft.value }, 'due')
  open.value = ''
}
function begin() {
  typed.value = now.value || props.usual()
  draft.value = typed.value
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
    <span v-else-if="careful" class="when">
      <input v-model="draft" v-focus type="datetime-local" class="field" :aria-label="label" @keydown.enter="move" />
      <Button size="small" data-act="move-due" @click="move">{{ t('act.done') }}</Button>
      <Button size="small" type="text" data-act="no-due" @click="clear">{{ none }}</Button>
      <span v-if="moves" class="quiet moves" role="status">{{ moves }}</span>
    </span>
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
