<script setup lang="ts">
import { TaskItem, TaskList } from '@tiptap/extension-list'
import Image from '@tiptap/extension-image'
import { TableKit } from '@tiptap/extension-table'
import { Markdown } from '@tiptap/markdown'
import StarterKit from '@tiptap/starter-kit'
import { Editor, EditorContent } from '@tiptap/vue-3'
import { nextTick, onBeforeUnmount, ref, shallowRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data } from '@/api/client'
import { tellProblem } from '@/tell'

/**
 * The editor for text documents. On opening, the text is read in and written
 * out again; where that isn't the same document by the server's rendering, the
 * plain editor is asked for instead.
 */
const props = defineProps<{ text: string; label: string; opened?: boolean }>()
const emit = defineEmits<{ changed: [string]; plain: [] }>()
const { t } = useI18n()
const editor = shallowRef<Editor>()
const tick = ref(0)

function make() {
  return new Editor({
    extensions: [
      StarterKit.configure({ link: { openOnClick: false } }),
      TableKit,
      TaskList,
      TaskItem.configure({ nested: true }),
      Image,
      Markdown,
    ],
    content: props.text,
    contentType: 'markdown',
    editorProps: {
      attributes: { class: 'sheet text', role: 'textbox', 'aria-multiline': 'true', 'aria-label': props.label },
    },
    onUpdate: ({ editor: e }) => emit('changed', e.getMarkdown()),
    onTransaction: () => tick.value++,
  })
}
async function open() {
  const e = make()
  try {
    const { same } = await data(api.POST('/render', { body: { text: e.getMarkdown(), other: props.text } }))
    if (same) {
      editor.value = e
      if (props.opened) void nextTick(() => e.commands.focus('end')) // once it is on the page
      return
    }
  } catch (err) {
    tellProblem(err)
  }
  e.destroy()
  emit('plain')
}
void open()
onBeforeUnmount(() => editor.value?.destroy())

const tools = [
  {
    name: 'bold',
    on: () => editor.value!.isActive('bold'),
    go: () => editor.value!.chain().focus().toggleBold().run(),
  },
  {
    name: 'italic',
    on: () => editor.value!.isActive('italic'),
    go: () => editor.value!.chain().focus().toggleItalic().run(),
  },
  {
    name: 'heading',
    on: () => editor.value!.isActive('heading'),
    go: () => editor.value!.chain().focus().toggleHeading({ level: 2 }).run(),
  },
  {
    name: 'list',
    on: () => editor.value!.isActive('bulletList'),
    go: () => editor.value!.chain().focus().toggleBulletList().run(),
  },
  {
    name: 'numbers',
    on: () => editor.value!.isActive('orderedList'),
    go: () => editor.value!.chain().focus().toggleOrderedList().run(),
  },
  {
    name: 'ticks',
    on: () => editor.value!.isActive('taskList'),
    go: () => editor.value!.chain().focus().toggleTaskList().run(),
  },
  { name: 'undo', on: () => false, go: () => editor.value!.chain().focus().undo().run() },
]
</script>

<template>
  <div v-if="editor">
    <div class="tools" role="toolbar" :aria-label="t('doc.tools')" :data-tick="tick">
      <button v-for="x in tools" :key="x.name" class="plain" :aria-pressed="x.on()" @mousedown.prevent @click="x.go()">
        {{ t(`doc.tool.${x.name}`) }}
      </button>
    </div>
    <EditorContent :editor="editor" />
  </div>
</template>

<style scoped>
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  margin-bottom: 8px;
  font-size: 14.5px;
}
.tools button {
  padding: 3px 2px;
  color: var(--ink-2);
}
.tools button:hover {
  color: var(--ink);
}
.tools button[aria-pressed='true'] {
  color: var(--leather-2);
  font-weight: 650;
  box-shadow: inset 0 -2px 0 var(--leather);
}
:deep(.sheet) {
  min-height: 52vh;
  outline: none;
}
:deep(.sheet:focus) {
  border-color: var(--leather);
}
</style>
