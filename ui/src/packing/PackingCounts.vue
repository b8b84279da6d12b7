<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'

/** How many lines of a packing list there are of each kind, and what is made besides. */
const props = defineProps<{
  counts: { section: string; n: number }[]
  /** How many of the main things are made; they are called by their unit. */
  made: number
  main: string
  unit: string
  /** What is made beside them. */
  places: Of<'Line'>[]
}>()
const all = defineModel<boolean>('all', { required: true })
const { t } = useI18n()
const also = computed(() => {
  const by = new Map<string, number>()
  for (const l of props.places) by.set(l.purpose, (by.get(l.purpose) ?? 0) + 1)
  return [...by].map(([purpose, n]) => t(`also.${purpose}`, { n }, n)).join(', ')
})
</script>

<template>
  <div class="head">
    <h2>{{ t('list.title') }}</h2>
    <span class="quiet">{{ t('list.exactly') }}</span>
  </div>
  <div class="counts">
    <div v-for="c in counts" :key="c.section" class="n" :class="{ [c.section]: c.n }" :data-count="c.section">
      <b class="display">{{ c.n }}</b>{{ t(`section.${c.section}`, c.n) }}
    </div>
    <span class="grow" />
    <div v-if="made" class="weight">
      <b class="display">{{ t(`list.things-${unit}`, { n: made }, made) }}</b>{{
        main === 'copy' ? t('list.weight') : t('list.no-weight')
      }}
    </div>
  </div>
  <p v-if="also" class="also quiet">
    {{ t('list.also', { things: also }) }}
    <button class="link" data-act="all-lines" @click="all = !all">{{ t(all ? 'list.fewer' : 'list.each') }}</button>
  </p>
</template>

<style scoped>
.head {
  display: flex;
  align-items: baseline;
  gap: 14px;
}
.head span {
  font-size: 14px;
}
.counts {
  display: flex;
  gap: 18px;
  margin: 8px 0;
  font-size: 14px;
  color: var(--ink-2);
}
.counts b {
  font-size: 21px;
  line-height: 1.05;
  display: block;
  color: var(--ink-2);
}
.to-pack b {
  color: var(--moss);
}
.needs-fixing b {
  color: var(--brick);
}
.weight {
  text-align: right;
}
.also {
  font-size: 13.5px;
  margin-bottom: 6px;
}
.waits b,
.to-change b {
  color: var(--brass-text);
}
</style>
