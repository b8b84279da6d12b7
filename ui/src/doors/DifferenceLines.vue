<script setup lang="ts">
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { useDifferences } from './doorCheck'

/** Every difference on a line: what differs, who and what, and what puts it right. */
const props = defineProps<{ check: Of<'DoorCheck'>; mayMend: boolean; busy: boolean; ticked: Set<string> }>()
defineEmits<{ tick: [id: string]; leave: [id: string, left: boolean] }>()
const { t } = useI18n()
const { names, state, why, mends } = useDifferences()
const mild = (d: Of<'Difference'>) => ['renamed', 'moved', 'in-bin'].includes(d.kind)
/** What stands in bold: people, where somebody has what they should not, or not what they should. */
const about = (d: Of<'Difference'>) =>
  ['missing', 'extra', 'wrong-level', 'wrong-person', 'wrong-owner'].includes(d.kind) ? names(d) : ''
const sections = [
  { key: 'lines', title: '' },
  { key: 'left', title: 'doors.left' },
] as const
const of = (key: 'lines' | 'left') => props.check[key]
</script>

<template>
  <template v-for="s in sections" :key="s.key">
    <h2 v-if="s.title && of(s.key).length">{{ t(s.title) }}</h2>
    <table v-if="of(s.key).length" :data-table="s.key === 'lines' ? 'differences' : 'left'">
      <thead v-if="s.key === 'lines'">
        <tr>
          <th v-if="mayMend" class="pick no-print" />
          <th class="what">{{ t('doors.what') }}</th>
          <th>{{ t('doors.who-what') }}</th>
          <th class="right">{{ t('doors.put-right') }}</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="d in of(s.key)" :key="d.id" :data-kind="d.kind">
          <td v-if="mayMend" class="pick no-print">
            <input
              v-if="s.key === 'lines' && d.mends"
              type="checkbox"
              :checked="ticked.has(d.id)"
              :disabled="busy"
              :aria-label="`${t(`door.${d.kind}`)}: ${about(d) || d.name}: ${mends(d)}`"
              @change="$emit('tick', d.id)"
            />
          </td>
          <td class="what">
            <span class="kind" :class="{ mild: mild(d) }">{{ t(`door.${d.kind}`) }}</span>
            <span v-if="state(d)" class="under">{{ state(d) }}</span>
          </td>
          <td>
            <template v-if="about(d)">
              <strong
                ><bdi>{{ about(d) }}</bdi></strong
              >
              {{ t(d.kind === 'wrong-owner' ? 'doors.has' : 'doors.in') }}{{ ' ' }}</template
            ><RouterLink v-if="d.kind !== 'gone' && d.kind !== 'in-bin'" :to="`/things/${d.thing}`"
              ><bdi>{{ d.name }}</bdi></RouterLink
            ><bdi v-else>{{ d.name }}</bdi>
            <span v-if="d.where" class="quiet">{{ ' ' + t('doors.lies-in', { folder: d.where }) }}</span>
            <span class="under">{{ why(d) }}</span>
          </td>
          <td class="right">
            <template v-if="s.key === 'lines'">
              <span v-if="d.mends">{{ mends(d) }}</span>
              <template v-if="mayMend">
                <span v-if="d.mends"> · </span>
                <button class="link" :disabled="busy" data-act="leave-door" @click="$emit('leave', d.id, true)">
                  {{ t('doors.leave') }}
                </button>
              </template>
            </template>
            <button
              v-else-if="mayMend"
              class="link"
              :disabled="busy"
              data-act="ask-again"
              @click="$emit('leave', d.id, false)"
            >
              {{ t('doors.tell-again') }}
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="s.key === 'lines' && check.more" class="quiet">{{ t('doors.more', { n: check.more }, check.more) }}</p>
    <p v-if="s.key === 'lines' && !check.lines.length && !check.wrong.length" class="quiet fine">
      {{ t('doors.fine') }}
    </p>
  </template>
</template>

<style scoped>
table {
  border-collapse: collapse;
  width: 100%;
  font-size: 14.5px;
}
th {
  font-size: 13px;
  color: var(--ink-3);
  text-align: left;
  font-weight: 500;
  padding: 0 10px 6px 0;
  border-bottom: 1px solid var(--thread);
}
td {
  padding: 10px 12px 10px 0;
  border-bottom: 1px solid var(--thread-2);
  vertical-align: top;
}
.pick {
  width: 34px;
}
.pick input {
  width: 16px;
  height: 16px;
  margin: 2px 0 0 2px;
}
.what {
  width: 180px;
}
.right {
  width: 320px;
}
.kind {
  font-weight: 650;
  color: var(--brick);
}
.kind.mild {
  color: var(--brass-text);
}
.under {
  display: block;
  color: var(--ink-2);
  font-size: 13.5px;
  margin-top: 1px;
}
.fine {
  margin-top: 16px;
}
h2 {
  margin: 24px 0 6px;
}
@media (max-width: 700px) {
  thead {
    display: none;
  }
  tr {
    display: grid;
    grid-template-columns: 30px minmax(0, 1fr);
    border-bottom: 1px solid var(--thread-2);
    padding: 8px 0;
  }
  td {
    display: block;
    width: auto !important;
    border: 0;
    padding: 2px 0;
  }
  td:not(.pick) {
    grid-column: 2;
  }
  .pick {
    grid-row: 1;
  }
}
</style>
