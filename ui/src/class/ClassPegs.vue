<script setup lang="ts">
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'
import type { Of } from '@/api/client'
import { adding } from './adding'
import NewClass from './NewClass.vue'

/** The classes on their pegs. */
defineProps<{ classes?: Of<'ClassTag'>[] }>()
const { t } = useI18n()
const route = useRoute()
const shortName = (c: { name: string; code: string }) =>
  c.name.replace(new RegExp(`\\s+${c.code.replace(/\W/g, '\\$&')}$`), '')
</script>

<template>
  <nav class="pegs" :aria-label="t('frame.classes')">
    <RouterLink
      v-for="c in classes"
      :key="c.id"
      :to="`/classes/${c.id}`"
      class="peg"
      :class="{ on: route.params.classId === c.id }"
      :title="c.name"
    >
      <svg viewBox="0 0 184 46" aria-hidden="true">
        <path d="M4.5 15C9 15 12 23 20 23" fill="none" stroke="#9C7A44" stroke-width="1.6" />
        <circle cx="4.5" cy="15" r="3.4" fill="#7E5A22" />
        <path class="body" d="M28 2H178a5 5 0 0 1 5 5V39a5 5 0 0 1-5 5H28L14.6 26.6a5.6 5.6 0 0 1 0-7.2Z" />
        <circle class="eye" cx="23" cy="23" r="3.2" />
      </svg>
      <span class="name">
        <strong>{{ c.code }}</strong>
        <span>{{ shortName(c) }}</span>
      </span>
      <b v-if="c.attention" :title="t('today.count', { n: c.attention }, c.attention)">{{ c.attention }}</b>
    </RouterLink>
    <NewClass v-if="adding" v-model:open="adding" />
    <button v-else-if="classes" class="plain add-class" data-act="add-class" @click="adding = true">
      {{ t('class.add') }}
    </button>
  </nav>
</template>

<style scoped>
b {
  background: var(--brass-text);
  color: var(--on-brass);
  border-radius: 9px;
  font-size: 12px;
  line-height: 18px;
  min-width: 18px;
  text-align: center;
  padding: 0 5px;
  font-weight: 700;
}
.pegs {
  position: relative;
  padding: 4px 0;
  flex: 1;
  min-height: 0;
  overflow: hidden auto;
}
.pegs::before {
  content: '';
  position: absolute;
  left: 19px;
  top: 0;
  bottom: 18px;
  width: 3px;
  border-radius: 2px;
  background: linear-gradient(#c99a45, #a8742a);
}
.peg {
  position: relative;
  margin: 0 12px 9px 36px;
  max-width: 164px;
  height: 46px;
  display: flex;
  align-items: center;
  color: var(--ink);
  text-decoration: none;
}
.peg svg {
  position: absolute;
  left: -20px;
  top: 0;
  width: 184px;
  height: 46px;
  overflow: visible;
}
.peg .body {
  fill: var(--peg);
  stroke: var(--thread);
}
.peg.on .body {
  fill: var(--sheet);
  stroke: var(--leather);
  stroke-width: 1.6;
}
.peg:hover .body {
  stroke: var(--leather);
}
.peg .eye {
  fill: var(--rail);
  stroke: var(--want);
}
.peg .name {
  position: relative;
  padding-left: 16px;
  line-height: 1.15;
  flex: 1;
  min-width: 0;
}
.peg strong {
  display: block;
  font-size: 14px;
  font-weight: 650;
}
.peg .name span {
  display: block;
  font-size: 12.5px;
  color: var(--ink-2);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.peg b {
  position: relative;
  margin-right: 8px;
}
.add-class {
  margin-left: 38px;
  font-size: 14px;
  color: var(--leather-2);
  font-weight: 600;
}
.add-class:hover {
  text-decoration: underline;
}
</style>
