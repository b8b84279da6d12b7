<script setup lang="ts">
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { now } from '@/me'
import { wallShort } from '@/when'
import type { Shown, Span } from './folded'
import type { Sort } from './order'

/** The head of the Register: headings, and columns that are sorted by. */
defineProps<{
  reg: Of<'Register'>
  columns: Shown[]
  spans: Span[]
  aria: (by: Sort['by']) => 'ascending' | 'descending' | 'none'
  choosing: boolean
}>()
const emit = defineEmits<{ sort: [by: Sort['by']]; show: [heading: string, on: boolean]; all: [] }>()
const { t } = useI18n()
/** Below a handout's title: that it is closed, else when it is due. */
function stands(c: Of<'RegisterColumn'>) {
  if (c.closes && Date.parse(c.closes) <= now()) return t('register.closed')
  return c.due ? wallShort(c.due) : '\u00a0'
}
</script>

<template>
  <thead>
    <tr v-if="spans.length" class="heads">
      <td />
      <th v-for="(s, i) in spans" :key="i" :colspan="s.n" scope="colgroup">
        <button
          v-if="s.id"
          class="plain"
          :aria-expanded="!s.away"
          :title="t(s.away ? 'headings.unfold' : 'headings.put', { title: s.title })"
          :data-heading="s.title"
          @click="emit('show', s.id, s.away)"
        >
          <span aria-hidden="true">{{ s.away ? '▸' : '▾' }}</span> {{ s.title }}
        </button>
      </th>
      <td colspan="2" />
    </tr>
    <tr>
      <th class="n" :aria-sort="aria('name')">
        <button class="plain" @click="emit('sort', 'name')">
          <span class="label">{{ t('register.student') }}</span><small>{{ t('register.by-family') }}</small>
        </button>
        <button v-if="choosing" class="link every" data-act="choose-all" @click="emit('all')">
          {{ t('chosen.all') }}
        </button>
      </th>
      <template v-for="x in columns" :key="reg.columns[x.k].handout ?? 'satchel'">
        <td v-if="x.away" class="away">{{ x.away }}</td>
        <th v-else class="c" :aria-sort="aria(x.k)">
          <button class="plain" @click="emit('sort', x.k)">
            {{ reg.columns[x.k].handout ? reg.columns[x.k].title : t('register.satchel')
            }}<small>{{ stands(reg.columns[x.k]) }}</small>
          </button>
        </th>
      </template>
      <th class="w">{{ t('register.week') }}</th>
      <th :aria-sort="aria('changed')">
        <button class="plain" @click="emit('sort', 'changed')">
          <span class="label">{{ t('register.changed') }}</span>
        </button>
      </th>
    </tr>
  </thead>
</template>

<style scoped>
thead th {
  position: sticky;
  top: 0;
  z-index: 2;
  background: var(--paper);
  font-weight: 600;
  font-size: 12.5px;
  color: var(--ink-2);
  text-align: left;
  vertical-align: bottom;
  padding: 0 6px 6px 0;
  border-bottom: 1.5px solid var(--thread);
  line-height: 1.2;
}
.heads th {
  position: static;
  border-bottom: 0;
  padding: 0 6px 2px 0;
}
.heads button {
  max-width: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  border-bottom: 2px solid var(--belt-done);
}
.every {
  min-width: 28px;
  min-height: 24px;
}
.heads td {
  border: 0;
}
thead .away {
  vertical-align: bottom;
  border-bottom: 1.5px solid var(--thread);
  padding-bottom: 6px;
}
thead th.c button {
  max-width: 96px;
  text-align: center;
}
thead th button:hover {
  color: var(--ink);
}
thead th[aria-sort='ascending'] .label::after {
  content: ' ▴';
}
thead th[aria-sort='descending'] .label::after {
  content: ' ▾';
}
small {
  display: block;
  font-weight: 400;
  color: var(--ink-3);
  font-size: 11.5px;
  white-space: nowrap;
}
.away {
  width: 1%;
  padding: 0 8px;
  text-align: center;
  background: var(--thread-2);
  font-size: 12px;
}
.c {
  text-align: center !important;
  padding-left: 2px !important;
  padding-right: 2px !important;
}
@media print {
  thead th {
    position: static;
    background: none;
  }
}
</style>
