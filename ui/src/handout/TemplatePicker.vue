<script setup lang="ts">
import { Button, Input, Textarea } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { ref, useTemplateRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { plainName } from '@/parts/plainName'
import { api, data, sendFile, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { sentence, tellDone, tellProblem } from '@/tell'
import { weight } from '@/things/weight'
import { ago, exact } from '@/when'

/** Choose what to hand out: one of your templates, a file, or a document written on the spot. */
// A function, not an event: a document that was sent is chosen also where another
// part of the sentence was opened meanwhile.
const props = defineProps<{ choose: (id: string) => unknown; several?: boolean; tall?: boolean }>()
const { t } = useI18n()
const queries = useQueryClient()
const { data: list } = useQuery({ queryKey: keys.templates(), queryFn: () => data(api.GET('/templates')) })
const file = useTemplateRef<HTMLInputElement>('file')
const problem = ref('')
const busy = ref(false)
const writing = ref(false)
const name = ref('')
const text = ref('')

// Of one name: told apart by ending and moment.
const twice = (x: Of<'Template'>) =>
  list.value!.filter((o) => plainName(o.name).toLocaleLowerCase() === plainName(x.name).toLocaleLowerCase()).length > 1

async function take(how: () => Promise<Of<'Template'>>) {
  busy.value = true
  problem.value = ''
  try {
    const tpl = await how()
    await queries.invalidateQueries({ queryKey: keys.templates() })
    await props.choose(tpl.id)
  } catch (e) {
    problem.value = sentence(e)
    return e
  } finally {
    busy.value = false
  }
}
const about = ref('') // whose acts are shown
const naming = ref('')
const newName = ref('')
function begin(x: Of<'Template'>) {
  naming.value = x.id
  newName.value = plainName(x.name)
}
async function doing(how: () => Promise<unknown>) {
  busy.value = true
  problem.value = ''
  try {
    await how()
    naming.value = ''
  } catch (e) {
    problem.value = sentence(e)
  } finally {
    busy.value = false
    await queries.invalidateQueries({ queryKey: keys.templates() })
  }
}
const rename = (x: Of<'Template'>) =>
  doing(() =>
    api.PUT('/templates/{templateId}/name', { params: { path: { templateId: x.id } }, body: { name: newName.value } }),
  )
const remove = (x: Of<'Template'>) =>
  doing(async () => {
    await api.POST('/templates/{templateId}/remove', { params: { path: { templateId: x.id } } })
    tellDone(t('template.removed', { name: plainName(x.name) }))
  })
/** Bytes of a file at most: a round number, a little less than the server takes. */
const most = 250_000_000
const over = ref(false)
/** Takes files one after the other; what can't be taken is said before it is sent. */
async function upload(files?: FileList | null) {
  const all = [...(files ?? [])].slice(0, props.several ? undefined : 1)
  if (file.value) file.value.value = '' // the same may be chosen again
  over.value = false
  problem.value = ''
  const wrong = all.find((f) => f.size > most || !f.size)
  if (wrong) {
    problem.value = t(wrong.size ? 'template.too-large' : 'template.empty', { name: wrong.name, most: weight(most) })
    return
  }
  for (const f of all) {
    const trouble = await take(() => sendFile<Of<'Template'>>('/templates', f, crypto.randomUUID()))
    if (!trouble) continue
    if (f !== all[0]) tellProblem(trouble) // this is closed by then
    return
  }
}
const write = () => take(() => data(api.POST('/templates/text', { body: { name: name.value, text: text.value } })))
</script>

<template>
  <div
    data-form="templates"
    :class="{ over }"
    @dragover.prevent="over = true"
    @dragleave="over = false"
    @drop.prevent="upload($event.dataTransfer?.files)"
  >
    <div v-if="!writing && list">
      <p v-if="!list.length" class="quiet">{{ t('template.none') }}</p>
      <ul :class="{ tall }">
        <li v-for="x in list" :key="x.id">
          <form v-if="naming === x.id" class="naming" @submit.prevent="rename(x)" @keydown.esc.stop="naming = ''">
            <Input v-model:value="newName" v-focus size="small" :aria-label="t('template.new-name')" :maxlength="200" />
            <Button size="small" type="primary" html-type="submit" :loading="busy" :disabled="!newName.trim()">{{
              t('act.done')
            }}</Button>
          </form>
          <div v-else class="one">
            <button class="plain pick" :data-template="x.name" @click="choose(x.id)">
              <span>{{ twice(x) ? x.name : plainName(x.name) }}</span><span class="quiet">{{
                twice(x) ? exact(Date.parse(x.addedAt)) : ago(Date.parse(x.addedAt), t)
              }}</span>
            </button>
            <button
              class="link"
              :aria-expanded="about === x.id"
              :aria-label="t('template.about', { name: plainName(x.name) })"
              @click="about = about === x.id ? '' : x.id"
            >
              …
            </button>
          </div>
          <div v-if="about === x.id && naming !== x.id" class="about">
            <RouterLink :to="`/things/${x.thing}`">{{ t('template.look') }}</RouterLink>
            <button class="link" data-act="rename-template" @click="begin(x)">{{ t('arrange.rename') }}</button>
            <button class="link" data-act="remove-template" @click="remove(x)">{{ t('template.remove') }}</button>
          </div>
        </li>
      </ul>
      <div class="acts">
        <Button size="small" :loading="busy" @click="file?.click()">{{ t('template.file') }}</Button>
        <Button size="small" data-act="write-template" @click="writing = true">{{ t('template.write') }}</Button>
        <input ref="file" type="file" :multiple="several" hidden @change="upload(file?.files)" />
        <span class="quiet">{{ t(several ? 'template.drop-several' : 'template.drop', { most: weight(most) }) }}</span>
      </div>
    </div>
    <form v-else-if="writing" @submit.prevent="write">
      <Input
        v-model:value="name"
        v-focus
        :placeholder="t('template.name')"
        :aria-label="t('template.name')"
        :maxlength="120"
      />
      <Textarea
        v-model:value="text"
        :auto-size="{ minRows: 5, maxRows: 14 }"
        :placeholder="t('template.text')"
        :aria-label="t('template.text')"
      />
      <div class="acts">
        <Button type="primary" size="small" html-type="submit" :loading="busy">{{ t('template.use') }}</Button>
        <Button size="small" @click="writing = false">{{ t('act.cancel') }}</Button>
      </div>
    </form>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
  </div>
</template>

<style scoped>
.over {
  outline: 2px dashed var(--leather);
  outline-offset: 6px;
}
ul {
  list-style: none;
  margin: 0 0 10px;
  padding: 0;
  max-height: 210px;
  overflow-y: auto;
}
ul.tall {
  max-height: none;
}
.one {
  display: flex;
  align-items: center;
  gap: 10px;
  border-radius: 4px;
}
.one:hover,
.one:focus-within {
  background: var(--leather-soft);
}
.about {
  display: flex;
  gap: 14px;
  padding: 0 6px 6px;
  font-size: 13.5px;
}
.naming {
  display: flex;
  gap: 8px;
  padding: 3px 6px;
}
.pick {
  display: flex;
  justify-content: space-between;
  gap: 12px;
  width: 100%;
  padding: 5px 6px;
  border-radius: 4px;
}
.pick:hover {
  background: var(--leather-soft);
}
.acts {
  display: flex;
  gap: 8px;
}
form {
  display: grid;
  gap: 8px;
}
</style>
