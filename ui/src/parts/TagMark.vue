<script setup lang="ts">
import type { Of } from '@/api/client'
import { computed, useId } from 'vue'
import { useI18n } from 'vue-i18n'

/** A luggage tag: its shape says the state, colour only supports it, the word is there for hover and screen readers. */
const props = defineProps<{ state: Of<'CellState'>; fill?: number; inside?: number; words?: number; bare?: boolean }>()
const { t } = useI18n()
const id = useId()

const body = 'M9 1.5H34.5a2 2 0 0 1 2 2V14.5a2 2 0 0 1-2 2H9L2 10.6a2.2 2.2 0 0 1 0-3.2Z'
const notched = 'M9 1.5H34.5l-3.4 3.7 3.4 3.8-3.4 3.7 3.4 3.8H9L2 10.6a2.2 2.2 0 0 1 0-3.2Z'
const part = computed(() => Math.max(0, Math.min(100, props.fill ?? 0)) / 100)
const edge = computed(() => 9 + 27.5 * part.value)
const label = computed(() => {
  const word = t(`state.${props.state}`)
  if (props.words === -1) return t('state.uncounted', { word })
  if (props.words) return t('state.with-words', { word, n: props.words }, props.words)
  if (props.inside) return t('state.with-inside', { word, n: props.inside }, props.inside)
  return word
})
</script>

<template>
  <span v-if="state === 'out'" class="dash" :title="bare ? undefined : label"
    ><span aria-hidden="true">–</span><span v-if="!bare" class="visually-hidden">{{ label }}</span></span
  >
  <svg
    v-else
    :class="['tag', state]"
    width="44"
    height="18"
    viewBox="-6 0 44 18"
    role="img"
    :aria-hidden="bare || undefined"
    :aria-label="bare ? undefined : label"
  >
    <title v-if="!bare">{{ label }}</title>
    <path v-if="!['not-made', 'not-shared', 'waits'].includes(state)" class="string" d="M7 9C3 9 0 4 -5.5 5" />
    <template v-if="state === 'stuck'">
      <path class="shape" :d="notched" />
      <path class="cry" d="M19 4.6v5.6" />
      <circle class="dot" cx="19" cy="13.2" r="1.3" />
    </template>
    <path v-else-if="state === 'not-made'" class="shape" :d="body" />
    <template v-else>
      <clipPath :id="id"><path :d="body" /></clipPath>
      <path class="ground" :d="body" />
      <g v-if="part > 0" :clip-path="`url(#${id})`">
        <rect class="fill" x="0" y="0" :width="edge" height="18" />
        <path class="edge" :d="`M${edge} 1V17`" />
      </g>
      <path class="shape" :d="body" />
      <circle class="eyelet" cx="7.4" cy="9" r="2" />
      <g v-if="state === 'waits'" class="wait">
        <circle v-for="x in [17, 23, 29]" :key="x" :cx="x" cy="9" r="1.5" />
      </g>
      <text v-if="inside" class="count" x="23" y="12.8" text-anchor="middle">{{ inside }}</text>
    </template>
  </svg>
</template>

<style scoped>
.tag {
  overflow: visible;
  vertical-align: -4px;
  --line: var(--moss);
}
.dash {
  color: var(--ink-3);
}
.not-made {
  --line: var(--want);
}
.not-shared,
.waits {
  --line: var(--brass);
}
.stuck {
  --line: var(--brick);
}
.string {
  fill: none;
  stroke: #b08a4a;
  stroke-width: 1.4;
}
.shape {
  fill: none;
  stroke: var(--line);
  stroke-width: 1.4;
}
.not-made .shape {
  stroke-width: 1.3;
  stroke-dasharray: 3 2.4;
}
.stuck .shape {
  fill: var(--brick-soft);
  stroke-width: 1.5;
}
.cry {
  stroke: var(--line);
  stroke-width: 2.2;
  stroke-linecap: round;
}
.dot {
  fill: var(--line);
}
.ground {
  fill: var(--sheet);
}
.not-shared .ground,
.waits .ground {
  fill: var(--brass-soft);
}
.wait {
  fill: var(--line);
}
.fill {
  fill: var(--moss-fill);
}
.edge {
  stroke: var(--moss);
  stroke-width: 1;
}
.eyelet {
  fill: var(--paper);
  stroke: var(--line);
  stroke-width: 1.2;
}
.opened .eyelet,
.working .eyelet {
  fill: var(--line);
}
.count {
  font-size: 11px;
  font-weight: 650;
  fill: var(--moss);
}
</style>
