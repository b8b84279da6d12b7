<script setup lang="ts">
import { ref, useTemplateRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { ProblemError, sendFile, type Of } from '@/api/client'
import { sentence } from '@/tell'

/** Adds files or pictures to a folder, several at once, each with its own outcome. */
const props = defineProps<{ folder: string; of?: string }>()
const emit = defineEmits<{ added: [] }>()
const { t } = useI18n()
const input = useTemplateRef<HTMLInputElement>('input')
type Sending = { key: string; file: File; part: number; problem: string }
const sending = ref<Sending[]>([])

async function send(s: Sending) {
  s.problem = ''
  try {
    // Sent again after a cut, the key is the same: the file is there once.
    await sendFile<Of<'ThingTag'>>(`/things/${props.folder}/files`, s.file, s.key, (p) => (s.part = p))
    sending.value = sending.value.filter((x) => x.key !== s.key)
    emit('added')
  } catch (e) {
    s.problem = e instanceof ProblemError ? sentence(e) : t('problem.internal')
  }
}
async function add(files?: FileList | null) {
  const fresh = [...(files ?? [])].map((file) => ({ key: crypto.randomUUID(), file, part: 0, problem: '' }))
  if (input.value) input.value.value = ''
  sending.value = [...sending.value, ...fresh]
  for (const f of fresh) await send(sending.value.find((x) => x.key === f.key)!)
}
defineExpose({ add })
</script>

<template>
  <div>
    <button
      class="plain btn"
      data-act="add-files"
      :aria-label="of ? `${t('thing.add')}: ${of}` : undefined"
      @click="input?.click()"
    >
      {{ t('thing.add') }}
    </button>
    <input ref="input" type="file" multiple hidden @change="add(input?.files)" />
    <p v-for="s in sending" :key="s.key" class="one" role="status">
      {{ s.file.name }}
      <template v-if="s.problem"
        ><span class="bad">{{ s.problem }}</span>
        <button class="link" @click="send(s)">{{ t('act.again') }}</button></template
      >
      <progress v-else :value="s.part" max="1" />
    </p>
  </div>
</template>

<style scoped>
.btn {
  font-weight: 600;
  font-size: 14.5px;
  line-height: 1;
  padding: 11px 15px !important;
  border-radius: 6px;
  border: 1px solid var(--thread) !important;
  background: var(--sheet) !important;
  white-space: nowrap;
}
.btn:hover {
  border-color: var(--leather) !important;
}
.one {
  font-size: 14px;
  margin-top: 6px;
}
progress {
  accent-color: var(--moss);
  width: 90px;
}
</style>
