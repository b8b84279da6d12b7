<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import PickOne from '@/parts/PickOne.vue'
import { plainName } from '@/parts/plainName'
import type { Hand } from './handout'
import { useClass } from '@/class/theClass'

/** The documents a handout gives, as words of its sentence. */
const props = defineProps<{ hand: Hand; levels: string[] }>()
const { h, open, documents, setDocuments } = props.hand
const { mayPack } = useClass()
const { t } = useI18n()
const byLevel = computed(() => h.value?.way === 'by-level')
// Levels the class has, and those that documents were for before they changed.
const choices = computed(() => {
  const all = [...new Set([...props.levels, ...documents.value.map((d) => d.for).filter(Boolean)])]
  return [
    { value: '', label: t('say.no-level') },
    ...all.map((l) => ({ value: l, label: t('say.level', { level: l }) })),
  ]
})
/** The first document is chosen beside the sentence, where its list will be. */
const choose = () =>
  documents.value.length
    ? toggle('template')
    : document.querySelector<HTMLElement>('[data-form="templates"] button')?.focus()
const toggle = (part: string) => (open.value = open.value === part ? '' : part)
const give = (d: Of<'GivenDocument'>, level: string) =>
  setDocuments(documents.value.map((x) => (x.slot === d.slot ? { ...x, for: level } : x)))
</script>

<template>
  <template v-for="(d, i) in documents" :key="d.slot"
    ><template v-if="i">{{ i === documents.length - 1 ? t('say.and') : ', ' }}</template
    ><button
      class="plain u"
      :class="{ on: open === `doc-${d.slot}` }"
      :disabled="!mayPack"
      data-part="document"
      @click="toggle(`doc-${d.slot}`)"
    >
      {{ plainName(d.file) }}{{ d.only ? ` ${t('say.for-some', { n: d.only }, d.only)}` : '' }}</button
    ><template v-if="byLevel"
      >{{ ' ' }}{{ t('say.to') }}
      <PickOne
        v-if="mayPack"
        class="u-select"
        :model-value="d.for"
        :options="choices"
        :label="t('say.level-of', { name: plainName(d.file) })"
        @update:model-value="(v) => give(d, v)"
      /><template v-else>{{ t('say.level', { level: d.for }) }}</template>
    </template> </template
  ><template v-if="mayPack && documents.length < 20"
    ><template v-if="documents.length">&nbsp;</template
    ><button
      class="plain u"
      :class="{ on: open === 'template', bad: !documents.length, soft: !!documents.length }"
      data-part="template"
      :title="documents.length ? t('say.another') : undefined"
      @click="choose"
    >
      {{ documents.length ? t('say.more') : t('say.choose') }}
    </button></template
  >
</template>
