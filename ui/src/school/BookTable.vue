<script setup lang="ts">
import { Checkbox } from 'ant-design-vue'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'

/** The accounts of a page of the school book: sorted by a column, chosen by anyone who may do something with them. */
const props = defineProps<{
  accounts: Of<'BookAccount'>[]
  chosen: string[]
  office: boolean
  by: string
  down: boolean
}>()
const emit = defineEmits<{ choose: [ids: string[], on: boolean]; open: [Of<'BookAccount'>]; sort: [by: string] }>()
const { t } = useI18n()
const columns = ['name', 'address', 'number', 'role'] as const
const labels = { name: 'book.name', address: 'signin.address', number: 'book.number', role: 'book.role' }
const aria = (c: string) => (props.by !== c ? 'none' : props.down ? 'descending' : 'ascending')
const ids = computed(() => props.accounts.filter((a) => !a.off).map((a) => a.id))
const every = computed(() => ids.value.length > 0 && ids.value.every((id) => props.chosen.includes(id)))
const some = computed(() => !every.value && ids.value.some((id) => props.chosen.includes(id)))
const stand = (a: Of<'BookAccount'>) =>
  a.off ? t('book.off') : a.codeUntil ? t('book.code') : a.ready ? t('book.ready') : t('book.none')
</script>

<template>
  <table>
    <thead>
      <tr>
        <th v-if="office" class="x">
          <Checkbox
            :checked="every"
            :indeterminate="some"
            :disabled="!ids.length"
            :aria-label="t('book.choose-page')"
            data-act="choose-page"
            @update:checked="(on: boolean) => emit('choose', ids, on)"
          />
        </th>
        <th v-for="c in columns" :key="c" :class="[c, { more: c !== 'name' }]" :aria-sort="aria(c)">
          <button class="plain" :data-sort="c" @click="emit('sort', c)">{{ t(labels[c]) }}</button>
        </th>
        <th v-if="office" class="more">{{ t('book.classes') }}</th>
        <th>{{ t('book.signs-in') }}</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="a in accounts" :key="a.id" :class="{ off: a.off }" :data-account="a.address">
        <td v-if="office" class="x">
          <Checkbox
            :checked="chosen.includes(a.id)"
            :disabled="a.off"
            :aria-label="t('book.choose', { name: `${a.given} ${a.family}` })"
            @update:checked="(on: boolean) => emit('choose', [a.id], on)"
          />
        </td>
        <td>
          <button v-if="office" class="link called" @click="emit('open', a)">
            <bdi>{{ a.family ? `${a.family}, ${a.given}` : a.given }}</bdi>
          </button>
          <bdi v-else>{{ a.family ? `${a.family}, ${a.given}` : a.given }}</bdi>
          <div class="under quiet">{{ a.address }}</div>
        </td>
        <td class="more">{{ a.address }}</td>
        <td class="more number">{{ a.number }}</td>
        <td class="more">{{ t(`role.${a.role}`) }}</td>
        <td v-if="office" class="more">
          <bdi>{{ a.classes?.join(', ') }}</bdi>
        </td>
        <td class="quiet">{{ stand(a) }}</td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
table {
  width: 100%;
  border-collapse: collapse;
  font-size: 14px;
}
th {
  text-align: left;
  font-size: 13px;
  border-bottom: 1px solid var(--thread);
  padding: 4px 8px 4px 0;
  position: sticky;
  top: -18px;
  background: var(--paper);
  z-index: 1;
}
th button {
  white-space: nowrap;
  min-height: 24px;
  font-weight: inherit;
}
th[aria-sort='ascending'] button::after {
  content: ' ▴';
}
th[aria-sort='descending'] button::after {
  content: ' ▾';
}
td {
  border-bottom: 1px solid var(--thread-2);
  padding: 3px 8px 3px 0;
  overflow-wrap: break-word;
}
.x {
  width: 30px;
}
th.name {
  width: 24%;
}
td:last-child {
  white-space: nowrap;
}
.off td {
  color: var(--ink-3);
}
.under {
  display: none;
}
.called {
  font-weight: 600;
  text-align: left;
}
@media (max-width: 1000px) {
  td {
    overflow-wrap: anywhere;
  }
}
@media (max-width: 760px) {
  .more {
    display: none;
  }
  .under {
    display: block;
  }
  th.name {
    width: auto;
  }
}
</style>
