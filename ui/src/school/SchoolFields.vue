<script setup lang="ts">
import { Input } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { SchoolTyped } from './school'

/** What the whole school has in common, to be typed. What is fixed where the program was started says so. */
const school = defineModel<SchoolTyped>({ required: true })
const props = defineProps<{ fixed: string[] }>()
const { t } = useI18n()
const put = (part: Partial<SchoolTyped>) => (school.value = { ...school.value, ...part })
const zones = computed(() => [...new Set([school.value.zone, ...Intl.supportedValuesOf('timeZone'), 'UTC'])].sort())
const languages = [
  'en', 'bg', 'ca', 'cs', 'cy', 'da', 'de', 'el', 'es', 'et', 'eu', 'fi', 'fr', 'ga', 'gl', 'hr', 'hu', 'is', 'it', 'ja', 'ko', 'lt', 'lv',
  'mt', 'nb', 'nl', 'nn', 'pl', 'pt', 'ro', 'sk', 'sl', 'sq', 'sr', 'sv', 'tr', 'uk', 'vi', 'zh',
] // prettier-ignore
const called = (tag: string) => new Intl.DisplayNames(['en'], { type: 'language' }).of(tag) ?? tag
const offered = computed(() =>
  [...new Set([school.value.language, ...languages])].map((tag) => ({ tag, name: called(tag) })),
)
const more = ref(Object.keys(school.value.words).length > 0)
const words = [
  ['class', 'Class', 'classes'],
  ['period', 'Period'],
  ['handout', 'Handout', 'handouts', 'Handouts'],
]
const is = (field: string) => props.fixed.includes(field)
const setWord = (name: string, word: string) => {
  const next = { ...school.value.words, [name]: word }
  if (!word.trim()) delete next[name]
  put({ words: next })
}
</script>

<template>
  <div class="fields">
    <label
      >{{ t('school.name')
      }}<Input
        :value="school.name"
        data-field="name"
        :disabled="is('name')"
        :maxlength="200"
        @update:value="(v: string) => put({ name: v })"
    /></label>
    <label
      >{{ t('school.domain')
      }}<Input
        :value="school.domain"
        data-field="domain"
        :disabled="is('domain')"
        :maxlength="253"
        placeholder="school.example"
        @update:value="(v: string) => put({ domain: v })"
      /><span class="quiet">{{ t('school.domain-help') }}</span></label
    >
    <div class="pair">
      <label
        >{{ t('school.zone')
        }}<select
          class="pick-one"
          :value="school.zone"
          data-field="zone"
          :disabled="is('zone')"
          @change="put({ zone: ($event.target as HTMLSelectElement).value })"
        >
          <option v-for="z in zones" :key="z" :value="z">{{ z }}</option>
        </select></label
      >
      <label
        >{{ t('school.language')
        }}<select
          class="pick-one"
          :value="school.language"
          data-field="language"
          :disabled="is('language')"
          @change="put({ language: ($event.target as HTMLSelectElement).value })"
        >
          <option v-for="l in offered" :key="l.tag" :value="l.tag">{{ l.name }}</option>
        </select></label
      >
    </div>
    <p class="line">
      <button type="button" class="link" :aria-expanded="more" data-act="words" @click="more = !more">
        {{ t('school.words') }}
      </button>
    </p>
    <div v-if="more" class="words">
      <p class="quiet">{{ t('school.words-help') }}</p>
      <template v-for="row in words" :key="row[0]">
        <label v-for="w in row" :key="w"
          >{{ t('school.word', { word: w })
          }}<Input
            :value="school.words[w] ?? ''"
            :data-field="`word-${w}`"
            :disabled="is('words')"
            :maxlength="40"
            :placeholder="w"
            @update:value="(v: string) => setWord(w, v)"
        /></label>
      </template>
    </div>
    <p v-if="fixed.length" class="quiet line">{{ t('school.fixed') }}</p>
  </div>
</template>

<style scoped>
.fields {
  display: grid;
  gap: 12px;
}
label {
  display: grid;
  gap: 3px;
  font-weight: 600;
}
label .quiet {
  font-weight: 400;
  font-size: 14px;
}
.pair {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(100%, 240px), 1fr));
  gap: 12px;
}
.words {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(140px, 1fr));
  gap: 10px;
  align-items: end;
}
.words p {
  grid-column: 1 / -1;
  margin: 0;
}
.line {
  margin: 0;
}
select {
  height: 32px;
}
</style>
