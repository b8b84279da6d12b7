<script setup lang="ts">
import { Button, Input, Textarea } from 'ant-design-vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useRested } from '@/parts/rested'
import { sentence } from '@/tell'

/**
 * Subject and text of a message with its columns, and the letter as any of its readers gets it. What
 * is put into it stands below, once the letter is there: it isn't pushed away by it.
 */
const text = defineModel<Of<'MailText'>>('text', { required: true })
const props = defineProps<{ classId: string; ask: Omit<Of<'MessageAsk'>, 'text' | 'row'> }>()
const emit = defineEmits<{ looked: [look: Of<'MessageLook'>] }>()
const { t } = useI18n()
const row = ref('')
const rested = useRested(computed(() => JSON.stringify(text.value)))
const {
  data: look,
  error,
  isPending,
} = useQuery({
  queryKey: computed(() => keys.letter(props.classId, props.ask, rested.value, row.value)),
  queryFn: async () => {
    const typed = JSON.parse(rested.value || '{}') as Of<'MailText'>
    const body = { ...props.ask, row: row.value || undefined, ...(typed.subject || typed.body ? { text: typed } : {}) }
    const out = await data(
      api.POST('/classes/{classId}/messages/preview', { params: { path: { classId: props.classId } }, body }),
    )
    emit('looked', out)
    return out
  },
  placeholderData: (old) => old,
  gcTime: 0,
})
const at = computed(() => look.value?.readers.findIndex((r) => r.row === look.value!.row) ?? -1)
function turn(by: number) {
  const all = look.value?.readers ?? []
  row.value = all[(at.value + by + all.length) % all.length]?.row ?? ''
}
const odd = computed(() => look.value?.readers.filter((r) => r.odd) ?? [])
const lacking = computed(() => Object.entries(look.value?.lacking ?? {}))
// A column is put where one typed last.
const place = ref<{ part: 'subject' | 'body'; at: number }>()
function mark(part: 'subject' | 'body', e: Event) {
  const field = e.target as HTMLInputElement
  place.value = { part, at: field.selectionStart ?? field.value.length }
}
function put(column: string) {
  const { part, at } = place.value ?? { part: 'body' as const, at: text.value.body.length }
  const now = text.value[part]
  const written = `[${column}]`
  text.value = { ...text.value, [part]: now.slice(0, at) + written + now.slice(at) }
  place.value = { part, at: at + written.length }
}
const more = ref(false)
const offered = computed(() => look.value?.columns.slice(0, more.value ? undefined : 8) ?? [])
</script>

<template>
  <div class="letter">
    <Input
      :value="text.subject"
      :maxlength="200"
      :aria-label="t('mail.subject')"
      :placeholder="t('mail.subject')"
      data-field="subject"
      @update:value="(v: string) => (text = { ...text, subject: v })"
      @keyup="mark('subject', $event)"
      @click="mark('subject', $event)"
    />
    <Textarea
      :value="text.body"
      :auto-size="{ minRows: 5, maxRows: 14 }"
      :maxlength="6000"
      :aria-label="t('mail.text')"
      data-field="body"
      @update:value="(v: string) => (text = { ...text, body: v })"
      @keyup="mark('body', $event)"
      @click="mark('body', $event)"
    />
    <div v-if="look" class="columns">
      <span class="quiet">{{ t('mail.put') }}</span>
      <button v-for="c in offered" :key="c" type="button" class="plain chip soft" @mousedown.prevent @click="put(c)">
        {{ c }}
      </button>
      <button v-if="!more && look.columns.length > 8" type="button" class="link" @click="more = true">
        {{ t('mail.more-columns', { n: look.columns.length - 8 }) }}
      </button>
    </div>
    <p v-if="error" class="bad" role="alert">{{ sentence(error) }}</p>
    <template v-if="look">
      <div v-if="look.row" class="shown" data-letter>
        <div class="to">
          <span
            >{{ t('mail.as-gets') }}
            <b
              ><bdi>{{ look.name }}</bdi></b
            ><template v-if="look.to.length"> · {{ look.to.join(', ') }}</template></span
          >
          <span class="turn">
            <Button size="small" :aria-label="t('mail.before')" @click="turn(-1)">‹</Button>
            <Button size="small" :aria-label="t('mail.after')" @click="turn(1)">›</Button>
          </span>
        </div>
        <strong>{{ look.subject }}</strong>
        <div class="body">{{ look.body }}</div>
      </div>
      <p v-if="look.strange.length" class="attention" role="status">
        {{ t('mail.strange', { words: look.strange.map((w) => `[${w}]`).join(' ') }) }}
      </p>
      <p v-for="[label, n] in lacking" :key="label" class="quiet">{{ t('mail.lacking', { label, n }, n) }}</p>
      <details v-if="odd.length" class="odd">
        <summary>{{ t('mail.odd', { n: odd.length }, odd.length) }}</summary>
        <ul>
          <li v-for="r in odd" :key="r.row">
            <bdi>{{ r.name }}</bdi>: {{ t(`mail.odd-${r.odd}`) }}
          </li>
        </ul>
      </details>
      <p class="quiet count">
        {{ t('mail.goes-to', { n: look.messages }, look.messages) }}
        <template v-if="look.standin">{{ t('mail.standin') }}</template>
      </p>
    </template>
    <slot v-if="!isPending" />
  </div>
</template>

<style scoped>
.letter {
  display: grid;
  gap: 8px;
}
.letter p {
  margin: 0;
}
.columns {
  display: flex;
  flex-wrap: wrap;
  gap: 5px;
  align-items: center;
  font-size: 13.5px;
}
.shown {
  background: var(--paper);
  border: 1px solid var(--thread);
  border-radius: 6px;
  padding: 8px 12px 10px;
}
.to {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  align-items: center;
  font-size: 13.5px;
  color: var(--ink-2);
  margin-bottom: 6px;
  overflow-wrap: anywhere;
}
.turn {
  display: flex;
  gap: 4px;
}
.body {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  margin-top: 4px;
}
.attention {
  color: var(--brass-text);
}
.odd summary {
  cursor: pointer;
  min-height: 24px;
  color: var(--brass-text);
}
.odd ul {
  margin: 4px 0 0;
  padding-left: 18px;
  max-height: 160px;
  overflow-y: auto;
}
</style>
