<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { useWeeks } from '@/api/queries'
import { useClass } from '@/class/theClass'
import FillBar from '@/parts/FillBar.vue'
import WeekChart from '@/parts/WeekChart.vue'
import { ago, exact, wall } from '@/when'

/** What is beside a Register that leaves room: the weeks, how far each handout is, who was busy last. */
const props = defineProps<{ reg: Of<'Register'> }>()
const emit = defineEmits<{ look: [row: string] }>()
const { classId } = useClass()
const { t } = useI18n()
const { data: weeks } = useWeeks(classId, '', true)
const most = 8
const handouts = computed(() =>
  props.reg.columns
    .filter((c) => c.handout)
    .slice(-most)
    .reverse()
    .map((c) => ({
      ...c,
      begun: c.states.filter((s) => s === 'working').length,
      of: c.states.filter((s) => s !== 'out').length,
    })),
)
const busy = computed(() =>
  props.reg.students
    .map((s, i) => ({ ...s, changed: props.reg.changed[i] }))
    .filter((s) => s.changed)
    .sort((a, b) => b.changed - a.changed)
    .slice(0, most),
)
</script>

<template>
  <aside class="beside" :aria-label="t('weeks.title')">
    <template v-if="weeks?.weeks.length">
      <h2>{{ t('weeks.title') }}</h2>
      <WeekChart wrote :weeks="weeks.weeks" :students="weeks.students" />
    </template>
    <template v-if="handouts.length">
      <h2>{{ t('weeks.handouts') }}</h2>
      <div v-for="h in handouts" :key="h.handout" class="line">
        <RouterLink :to="{ name: 'handout', params: { classId, handoutId: h.handout } }"
          ><bdi>{{ h.title }}</bdi></RouterLink
        >
        <FillBar :part="h.begun / Math.max(1, h.of)" />
        <span class="quiet"
          >{{ t('weeks.begun-of', { n: h.begun, all: h.of })
          }}<template v-if="h.due"> · {{ t('weeks.due', { due: wall(h.due) }) }}</template></span
        >
      </div>
    </template>
    <template v-if="busy.length">
      <h2>{{ t('weeks.latest') }}</h2>
      <div v-for="s in busy" :key="s.row" class="line two">
        <button class="link" @click="emit('look', s.row)">
          <bdi>{{ s.name }}</bdi>
        </button>
        <span class="quiet" :title="exact(s.changed * 1000)">{{ ago(s.changed * 1000, t) }}</span>
      </div>
    </template>
  </aside>
</template>

<style scoped>
.beside {
  border-left: 1px solid var(--thread);
  padding: 16px 24px 24px;
  margin-top: 10px;
  min-height: 0;
  overflow-y: auto;
  font-size: 14.5px;
}
h2 {
  margin: 24px 0 8px;
}
h2:first-child {
  margin-top: 0;
}
.line {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 90px max-content;
  gap: 12px;
  align-items: baseline;
  padding: 5px 0;
  border-bottom: 1px solid var(--thread-2);
  font-size: 14px;
}
.line.two {
  grid-template-columns: minmax(0, 1fr) max-content;
}
.line .link {
  text-align: left;
}
.line > :first-child {
  overflow-wrap: anywhere;
}
@media print {
  .beside {
    display: none;
  }
}
</style>
