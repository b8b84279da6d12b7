<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { ref, useTemplateRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, sendFile, type Of } from '@/api/client'
import { useActing } from '@/parts/acting'

/** A class list is brought in: pasted, typed, or as a file. */
const props = defineProps<{ classId: string; newer: boolean }>()
const emit = defineEmits<{ brought: [draft: Of<'Draft'>]; cancel: []; one: [] }>()
const { t } = useI18n()
const text = ref('')
const { busy, problem, act } = useActing()
const dragging = ref(false)
const file = useTemplateRef<HTMLInputElement>('file')
const take = (how: () => Promise<Of<'Draft'>>) =>
  act(async () => {
    emit('brought', await how())
    text.value = ''
  })
const paste = () =>
  take(() =>
    data(
      api.POST('/classes/{classId}/draft', {
        params: { path: { classId: props.classId } },
        body: { text: text.value },
      }),
    ),
  )
function onPaste(e: ClipboardEvent) {
  const cells = e.clipboardData?.getData('text/plain') ?? ''
  if (!cells.trim() || text.value) return // added to what is typed: read when asked
  e.preventDefault()
  text.value = cells
  void paste()
}
function upload(f?: File | null) {
  if (f) void take(() => sendFile<Of<'Draft'>>(`/classes/${props.classId}/draft/file`, f, crypto.randomUUID()))
  if (file.value) file.value.value = ''
}
function drop(e: DragEvent) {
  dragging.value = false
  upload(e.dataTransfer?.files[0])
}
</script>

<template>
  <section
    class="bring"
    :class="{ dragging }"
    @dragover.prevent="dragging = true"
    @dragleave="dragging = false"
    @drop.prevent="drop"
  >
    <h2>{{ t('roster.bring') }}</h2>
    <p class="quiet">{{ t('roster.bring-text') }}</p>
    <textarea
      v-model="text"
      v-focus
      class="paste"
      rows="9"
      :placeholder="t('roster.paste-here')"
      :aria-label="t('roster.paste-here')"
      @paste="onPaste"
    />
    <p v-if="problem" class="bad" role="alert" data-problem>
      {{ problem }} <span class="quiet">{{ t('roster.nothing-changed') }}</span>
    </p>
    <div class="acts">
      <Button type="primary" :disabled="!text.trim()" :loading="busy" data-act="read" @click="paste">{{
        t('roster.read')
      }}</Button>
      <Button :disabled="busy" @click="file?.click()">{{ t('roster.file') }}</Button>
      <Button v-if="newer" @click="emit('cancel')">{{ t('act.cancel') }}</Button>
      <Button v-else @click="emit('one')">{{ t('add.one-by-one') }}</Button>
      <input
        ref="file"
        type="file"
        accept=".csv,.tsv,.txt,.xlsx,.xlsm,.ods,.zip,text/*"
        hidden
        @change="upload(file?.files?.[0])"
      />
      <span class="quiet">{{ t('roster.drop') }}</span>
    </div>
  </section>
</template>

<style scoped>
.bring {
  padding: 24px;
  display: grid;
  gap: 12px;
  align-content: start;
  max-width: 820px;
}
.bring.dragging .paste {
  border-color: var(--leather);
  background: var(--leather-soft);
}
.paste {
  width: 100%;
  font: inherit;
  font-size: 14px;
  border: 2px dashed var(--line-field);
  border-radius: 8px;
  padding: 14px 16px;
  background: var(--sheet);
  color: var(--ink);
  resize: vertical;
}
.paste::placeholder {
  color: var(--ink-3);
}
.acts {
  display: flex;
  gap: 10px;
  align-items: center;
  flex-wrap: wrap;
}
</style>
