<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { dayMonth } from '@/when'

/**
 * How a class came on, week by week: of all students those who had opened and those who had begun by
 * its end, or those who wrote in it, and its words. A small one shows only who wrote.
 */
const props = defineProps<{ weeks: Of<'Week'>[]; students: number; wrote?: boolean; small?: boolean }>()
const { t } = useI18n()
const size = computed(() =>
  props.small
    ? { tall: 20, wide: 10, bar: 8, above: 1, below: 1 }
    : { tall: 60, wide: 56, bar: 34, above: 15, below: 34 },
)
const count = (n: number) => n.toLocaleString()
const told = computed(() => (props.wrote ? 'weeks.told-wrote' : 'weeks.told'))
const aloud = computed(() =>
  props.weeks.map((w) => t(told.value, { ...w, day: dayMonth(w.first), all: props.students }, w.words)).join(' '),
)
const columns = computed(() => {
  const { tall, wide, above } = size.value
  const part = (n: number) => (tall * Math.min(n, props.students)) / Math.max(1, props.students)
  const box = (n: number) => ({ y: above + tall - part(n), height: part(n) })
  return props.weeks.map((w, i) => ({
    ...w,
    x: i * wide + 1,
    opens: box(w.opened),
    n: props.wrote ? w.wrote : w.begun,
    begins: box(props.wrote ? w.wrote : w.begun),
  }))
})
const width = computed(() => props.weeks.length * size.value.wide + 2)
const height = computed(() => size.value.above + size.value.tall + size.value.below)
const middle = (x: number) => x + size.value.bar / 2
</script>

<template>
  <figure data-chart="weeks" :class="{ small }">
    <svg :width="width" :height="height" :viewBox="`0 0 ${width} ${height}`" role="img" :aria-label="aloud">
      <g v-for="c in columns" :key="c.first">
        <title>{{ t(told, { ...c, day: dayMonth(c.first), all: students }, c.words) }}</title>
        <rect class="all" :x="c.x" :y="size.above" :width="size.bar" :height="size.tall" rx="2" />
        <rect v-if="!wrote" class="opened" :x="c.x" :width="size.bar" v-bind="c.opens" rx="2" />
        <rect class="begun" :x="c.x" :width="size.bar" v-bind="c.begins" rx="2" />
        <template v-if="!small">
          <text class="n" :x="middle(c.x)" :y="Math.min(c.begins.y, wrote ? c.begins.y : c.opens.y) - 4">
            {{ c.n }}
          </text>
          <text :x="middle(c.x)" :y="size.above + size.tall + 14">{{ dayMonth(c.first) }}</text>
          <text class="words" :x="middle(c.x)" :y="size.above + size.tall + 29">{{ count(c.words) }}</text>
        </template>
      </g>
    </svg>
    <figcaption v-if="!small">
      <div><span class="key begun" />{{ t(wrote ? 'weeks.key-wrote' : 'weeks.key-begun') }}</div>
      <div v-if="!wrote"><span class="key opened" />{{ t('weeks.key-opened') }}</div>
      {{ t('weeks.key-words') }}
    </figcaption>
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
  display: flex;
  gap: 6px 16px;
  align-items: flex-end;
  overflow-x: auto;
  line-height: 1.3;
}
svg {
  flex: none;
}
.small {
  overflow: visible;
  line-height: 0;
}
rect.all {
  fill: var(--thread-2);
}
.small rect.all {
  fill: var(--thread);
  opacity: 0.55;
}
rect.opened {
  fill: var(--sheet);
  stroke: var(--moss);
  stroke-dasharray: 3 2;
}
rect.opened[height='0'],
rect.begun[height='0'] {
  display: none;
}
rect.begun {
  fill: var(--moss-fill);
  stroke: var(--moss);
}
.small rect.begun {
  stroke: none;
  fill: var(--moss);
}
text {
  font-size: 12px;
  fill: var(--ink-2);
  text-anchor: middle;
}
text.n {
  fill: var(--ink);
  font-weight: 600;
}
figcaption {
  font-size: 12.5px;
  color: var(--ink-2);
  line-height: 1.5;
}
.key {
  display: inline-block;
  width: 11px;
  height: 11px;
  border: 1px solid var(--moss);
  border-radius: 2px;
  vertical-align: -1px;
  margin-right: 5px;
}
.key.begun {
  background: var(--moss-fill);
  print-color-adjust: exact;
}
.key.opened {
  border-style: dashed;
}
@media (forced-colors: active) {
  rect.all {
    fill: Canvas;
    stroke: GrayText;
  }
  rect.begun,
  .small rect.begun {
    fill: CanvasText;
    stroke: CanvasText;
  }
  rect.opened {
    fill: Canvas;
    stroke: CanvasText;
  }
  text {
    fill: CanvasText;
  }
}
</style>
