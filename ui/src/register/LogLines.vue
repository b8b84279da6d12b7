<script setup lang="ts">
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { ago, exact } from '@/when'

/** What was done, by whom and when; with the way to what it is about where there is a class. */
defineProps<{ lines: Of<'LogLine'>[]; classId?: string }>()
const { t } = useI18n()
</script>

<template>
  <table data-table="log">
    <tbody>
      <tr v-for="l in lines" :key="l.n">
        <td class="when" :title="exact(Date.parse(l.at))">{{ ago(Date.parse(l.at), t) }}</td>
        <td class="who">
          <bdi>{{ l.who || t('log.program') }}</bdi>
        </td>
        <td>
          {{ l.text }}
          <RouterLink
            v-if="classId && l.handout"
            class="to"
            :to="{ name: 'handout', params: { classId, handoutId: l.handout } }"
            >{{ t('log.to-handout') }}</RouterLink><RouterLink
            v-else-if="classId && l.row"
            class="to"
            :to="{ name: 'register', params: { classId }, query: { student: l.row } }"
            >{{ t('log.to-student') }}</RouterLink
          >
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
table {
  border-collapse: collapse;
  width: 100%;
  font-size: 14px;
}
td {
  border-top: 1px solid var(--thread-2);
  padding: 4px 12px 4px 0;
  vertical-align: top;
  overflow-wrap: anywhere;
}
.when {
  white-space: nowrap;
  width: 130px;
  color: var(--ink-2);
}
.who {
  width: 190px;
  font-weight: 600;
}
.to {
  text-decoration: underline;
  margin-left: 6px;
  white-space: nowrap;
}
@media (max-width: 760px) {
  tr {
    display: grid;
    grid-template-columns: auto 1fr;
    gap: 0 8px;
    border-top: 1px solid var(--thread-2);
    padding: 6px 0;
  }
  td {
    border: 0;
    padding: 0;
  }
  .when,
  .who {
    width: auto;
  }
  td:last-child {
    grid-column: 1 / 3;
  }
  .to {
    margin-left: 0;
    display: inline-block;
    min-height: 24px;
  }
}
</style>
