<script setup lang="ts">
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { late } from '@/late'
import type { Of } from '@/api/client'
import { ago } from '@/when'
import DocumentVersions from './DocumentVersions.vue'
import { useKeptText } from './keptText'

/** A text document, which saves by itself. */
const props = defineProps<{ thing: Of<'Thing'>; refused: () => void }>()
const RichText = late(() => import('./RichText.vue'))
const { t } = useI18n()
const showing = ref(false)
const {
  may,
  loaded,
  problem,
  text,
  plain,
  revive,
  state,
  savedAt,
  theirs,
  leftover,
  load,
  changed,
  settle,
  dropLeftover,
  copyLeftover,
  bringBack: putBack,
  base,
} = useKeptText(props.thing, props.refused)
function bringBack(old: string) {
  showing.value = false
  putBack(old)
}

const word = computed(() => {
  if (state.value === 'saved') return t('doc.saved', { when: ago(savedAt.value, t) })
  if (state.value === 'still') return ''
  return t(`doc.${state.value}`)
})
</script>

<template>
  <div class="doc" :data-state="state">
    <p v-if="problem" class="bad" role="alert">
      {{ problem }} <span v-if="state === 'refused'">{{ t('doc.kept-here') }}</span>
      <button v-if="!loaded" class="link" @click="load">{{ t('act.again') }}</button>
    </p>
    <template v-if="loaded">
      <div class="line">
        <span v-if="!may" class="quiet" :hidden="!!thing.closing && !thing.classId">{{ t('doc.read-only') }}</span>
        <span v-else role="status" :class="{ bad: state === 'offline' || state === 'refused' }">{{ word }}</span>
        <span class="grow" />
        <button class="link" @click="showing = !showing">{{ t('doc.versions') }}</button>
        <a :href="`/api/things/${thing.id}/content`" download>{{ t('thing.download') }}</a>
      </div>
      <section v-if="leftover" class="both" data-part="leftover">
        <h2>{{ t('doc.leftover') }}</h2>
        <p class="quiet">{{ t('doc.leftover-text') }}</p>
        <pre>{{ leftover }}</pre>
        <div class="acts">
          <button class="plain btn go" data-act="copy-leftover" @click="copyLeftover">
            {{ t('doc.leftover-copy') }}
          </button>
          <button class="plain btn" data-act="drop-leftover" @click="dropLeftover">{{ t('doc.leftover-drop') }}</button>
        </div>
      </section>
      <section v-if="theirs" class="both" role="alert">
        <h2>{{ t('doc.both', { who: theirs.by || t('doc.somebody') }) }}</h2>
        <p class="quiet">{{ t('doc.both-text') }}</p>
        <div class="pair">
          <div>
            <h3>{{ t('doc.theirs') }}</h3>
            <pre>{{ theirs.theirs }}</pre>
          </div>
          <div>
            <h3>{{ t('doc.mine') }}</h3>
            <pre>{{ text }}</pre>
          </div>
        </div>
        <div class="acts">
          <button class="plain btn go" data-act="keep-both" @click="settle('both')">{{ t('doc.keep-both') }}</button>
          <button class="plain btn" data-act="keep-mine" @click="settle('mine')">{{ t('doc.keep-mine') }}</button>
          <button class="plain btn" data-act="keep-theirs" @click="settle('theirs')">{{ t('doc.keep-theirs') }}</button>
        </div>
      </section>
      <DocumentVersions
        v-if="showing"
        :thing="thing"
        :may="may"
        :version="base"
        @back="bringBack"
        @close="showing = false"
      />
      <!-- The server renders and cleans this HTML: no script, style or form is left in it. -->
      <!-- eslint-disable-next-line vue/no-v-html -->
      <article v-else-if="!may" class="sheet text" v-html="loaded.html" />
      <template v-else-if="!theirs">
        <p v-if="plain" class="quiet">{{ t(loaded.tangled ? 'doc.tangled' : 'doc.plain') }}</p>
        <textarea
          v-if="plain"
          :key="revive"
          class="sheet plain-text"
          :value="text"
          :aria-label="thing.name"
          spellcheck="true"
          @input="changed(($event.target as HTMLTextAreaElement).value)"
        />
        <RichText v-else :key="revive" :text="text" :label="thing.name" @changed="changed" @plain="plain = true" />
      </template>
    </template>
  </div>
</template>

<style>
.sheet {
  background: var(--sheet);
  border: 1px solid var(--thread);
  border-radius: 8px;
  padding: 22px 30px;
}
.text {
  font-size: 16.5px;
  line-height: 1.6;
  overflow-wrap: anywhere;
}
.text h1,
.text h2,
.text h3 {
  margin: 0.9em 0 0.35em;
}
.text > :first-child {
  margin-top: 0;
}
.text p {
  margin: 0 0 0.7em;
}
.text table {
  border-collapse: collapse;
  margin: 0.5em 0 1em;
}
.text th,
.text td {
  border: 1px solid var(--thread);
  padding: 4px 10px;
  min-width: 60px;
  text-align: left;
  vertical-align: top;
}
.text th {
  background: var(--rail);
}
.text td p,
.text th p {
  margin: 0;
}
.text ul[data-type='taskList'] {
  list-style: none;
  padding-left: 4px;
}
.text ul[data-type='taskList'] li {
  display: flex;
  gap: 4px;
}
/* A box that a finger hits, with its text beside it. */
.text ul[data-type='taskList'] li > label {
  flex: none;
  width: 44px;
  height: 44px;
  display: grid !important;
  place-content: center;
  gap: 0;
}
.text ul[data-type='taskList'] li p {
  margin: 0;
  padding: 9px 0 0;
}
.text input[type='checkbox'] {
  width: 24px;
  height: 24px;
  margin: 2px 0;
  accent-color: var(--moss);
}
.text img {
  max-width: 100%;
}
@media print {
  .sheet.text,
  .text .sheet {
    min-height: 0 !important;
    padding: 0 !important;
    border: 0 !important;
  }
}
.text blockquote {
  border-left: 3px solid var(--thread);
  margin-left: 0;
  padding-left: 14px;
}
</style>
<style scoped>
.line {
  display: flex;
  gap: 18px;
  font-size: 14px;
  margin-bottom: 8px;
  min-height: 21px;
}
.plain-text {
  width: 100%;
  min-height: 55vh;
  font: inherit;
  color: var(--ink);
  resize: vertical;
}
.both {
  border: 1.5px solid var(--brass);
  border-radius: 8px;
  padding: 16px 20px;
  background: var(--sheet);
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 18px;
}
pre {
  white-space: pre-wrap;
  font: inherit;
  max-height: 300px;
  overflow: auto;
  background: var(--paper);
  padding: 10px 12px;
  border-radius: 6px;
  margin: 0;
}
.acts {
  display: flex;
  gap: 8px;
  margin-top: 14px;
  flex-wrap: wrap;
}
.btn {
  border: 1px solid var(--thread) !important;
  border-radius: 6px;
  padding: 8px 13px !important;
  font-weight: 600 !important;
}
.btn.go {
  background: var(--leather) !important;
  color: var(--on-leather) !important;
}
@media (max-width: 760px) {
  .pair {
    grid-template-columns: 1fr;
  }
}
@media print {
  .line {
    display: none;
  }
}
</style>
