<script lang="ts">
/** What can be opened beside a class list. */
export type RosterPanel = 'add' | 'choose' | 'teams' | 'leavers' | 'history'
</script>

<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

/** What can be opened beside a class list, and the list as a file. */
const props = defineProps<{ classId: string; editable: boolean; gone: boolean }>()
const panel = defineModel<RosterPanel | ''>('panel', { required: true })
const { t } = useI18n()
const tools = computed(() =>
  (
    [
      { panel: 'add', word: 'grid.add', there: props.editable },
      { panel: 'choose', word: 'grid.choose', there: true },
      { panel: 'teams', word: 'grid.teams', there: props.editable },
      { panel: 'leavers', word: 'leaver.title', there: props.gone },
      { panel: 'history', word: 'grid.history', there: true },
    ] as const
  ).filter((x) => x.there),
)
</script>

<template>
  <span class="tools">
    <button
      v-for="x in tools"
      :key="x.panel"
      class="link"
      :class="{ on: panel === x.panel }"
      :data-panel="x.panel"
      @click="panel = panel === x.panel ? '' : x.panel"
    >
      {{ t(x.word) }}
    </button>
    <span class="export"
      >{{ t('grid.export') }}:
      <a v-for="f in ['csv', 'xlsx', 'ods']" :key="f" :href="`/api/classes/${classId}/roster/export/${f}`" download>{{
        f
      }}</a></span
    >
  </span>
</template>

<style scoped>
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  align-items: baseline;
}
.tools .on {
  color: var(--ink);
  font-weight: 650;
  box-shadow: 0 2px 0 var(--leather);
}
.export {
  color: var(--ink-2);
  font-size: 14px;
}
.export a {
  margin-left: 5px;
}
</style>
