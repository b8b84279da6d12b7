<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useActing } from '@/parts/acting'
import { useFieldName } from '@/parts/fieldName'
import PickOne from '@/parts/PickOne.vue'
import { tellDone } from '@/tell'
import MessageLetter from './MessageLetter.vue'
import { useClass } from '@/class/theClass'

/** A message to chosen students, or to the addresses that a column of their list has. */
const props = defineProps<{ classId: string; handoutId: string; rows: string[] }>()
const emit = defineEmits<{ sent: [] }>()
const { cls } = useClass()
const { t } = useI18n()
const queries = useQueryClient()
const fieldName = useFieldName()
const text = ref<Of<'MailText'>>({ subject: '', body: '' })
const column = ref('')
const columns = computed(() => cls.value?.columns.map((c) => c.field).filter((f) => f.startsWith('extra:')) ?? [])
const ask = computed(() => ({
  kind: 'written' as const,
  rows: props.rows,
  handout: props.handoutId || undefined,
  column: column.value || undefined,
}))
const messages = ref(0)
function looked(look: Of<'MessageLook'>) {
  messages.value = look.messages
  if (!text.value.subject && !text.value.body) text.value = { ...look.text }
}
const { busy, problem, act } = useActing()
const send = () =>
  act(async () => {
    const done = await data(
      api.POST('/classes/{classId}/messages', {
        params: { path: { classId: props.classId } },
        body: { ...ask.value, text: text.value },
      }),
    )
    await queries.invalidateQueries({ queryKey: keys.messages(props.classId) })
    tellDone(t('mail.sent-n', { n: done.messages }, done.messages))
    emit('sent')
  })
</script>

<template>
  <form class="message" data-form="message" @submit.prevent="send">
    <label v-if="columns.length"
      >{{ t('mail.to') }}
      <PickOne
        v-model="column"
        :label="t('mail.to')"
        :options="[
          { value: '', label: t('mail.to-own') },
          ...columns.map((c) => ({ value: c, label: t('mail.to-column', { column: fieldName(c) }) })),
        ]"
    /></label>
    <MessageLetter v-model:text="text" v-focus :class-id="classId" :ask="ask" @looked="looked">
      <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
      <Button
        type="primary"
        size="small"
        html-type="submit"
        :loading="busy"
        :disabled="!messages || !text.subject.trim() || !text.body.trim()"
        data-act="send"
        >{{ t('mail.send', { n: messages }, messages) }}</Button
      >
    </MessageLetter>
  </form>
</template>

<style scoped>
.message {
  display: grid;
  gap: 8px;
  border-left: 3px solid var(--tide-soft);
  padding-left: 10px;
}
.message p {
  margin: 0;
}
.message button[type='submit'] {
  justify-self: start;
}
</style>
