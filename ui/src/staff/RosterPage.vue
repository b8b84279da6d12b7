<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, useTemplateRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { api, data, ProblemError, sendFile, type Of } from '@/api/client'
import { useReasons } from '@/reasons'
import { sentence, tellProblem } from '@/tell'
import RosterDraft from './RosterDraft.vue'
import { useClass } from './theClass'

/** The class list: what was accepted, and a new list that waits to be. */
const { cls, classId } = useClass()
const { t } = useI18n()
const { reasonText } = useReasons()
const queries = useQueryClient()
const router = useRouter()
const path = computed(() => ({ path: { classId: classId.value } }))
const mayChange = computed(() => cls.value?.my === 'owner' || cls.value?.my === 'teacher')
const { data: rows } = useQuery({
  queryKey: computed(() => ['roster', classId.value]),
  queryFn: () => data(api.GET('/classes/{classId}/roster', { params: path.value })),
})
const { data: draft } = useQuery({
  queryKey: computed(() => ['draft', classId.value]),
  enabled: computed(() => mayChange.value && !!cls.value?.draft),
  queryFn: async () => {
    try {
      return await data(api.GET('/classes/{classId}/draft', { params: path.value }))
    } catch (e) {
      if (e instanceof ProblemError && e.status === 404) return null
      throw e
    }
  },
})
const setDraft = (d: Of<'Draft'> | null) => queries.setQueryData(['draft', classId.value], d)

const bringing = ref(false)
const text = ref('')
const problem = ref('')
const busy = ref(false)
const dragging = ref(false)
const file = useTemplateRef<HTMLInputElement>('file')
async function take(how: () => Promise<Of<'Draft'>>) {
  busy.value = true
  problem.value = ''
  try {
    setDraft(await how())
    bringing.value = false
    text.value = ''
    await queries.invalidateQueries({ queryKey: ['class', classId.value] })
  } catch (e) {
    problem.value = sentence(e)
  } finally {
    busy.value = false
  }
}
const paste = () =>
  take(() => data(api.POST('/classes/{classId}/draft', { params: path.value, body: { text: text.value } })))
function onPaste(e: ClipboardEvent) {
  const cells = e.clipboardData?.getData('text/plain') ?? ''
  if (!cells.trim() || text.value) return // added to what is typed: read when asked
  e.preventDefault()
  text.value = cells
  void paste()
}
function upload(f?: File | null) {
  if (f) void take(() => sendFile<Of<'Draft'>>(`/classes/${classId.value}/draft/file`, f, crypto.randomUUID()))
  if (file.value) file.value.value = ''
}
function drop(e: DragEvent) {
  dragging.value = false
  upload(e.dataTransfer?.files[0])
}
async function accepted() {
  setDraft(null)
  for (const what of ['class', 'roster', 'room', 'register'])
    await queries.invalidateQueries({ queryKey: [what, classId.value] })
  await queries.invalidateQueries({ queryKey: ['classes'] })
  void router.push({ name: 'room', params: { classId: classId.value } })
}
async function dropDraft() {
  try {
    await api.DELETE('/classes/{classId}/draft', { params: path.value })
    setDraft(null)
    await queries.invalidateQueries({ queryKey: ['class', classId.value] })
  } catch (e) {
    tellProblem(e)
  }
}
const extras = computed(() => [...new Set((rows.value ?? []).flatMap((r) => Object.keys(r.extra)))])
const has = (f: 'number' | 'period' | 'level' | 'team') => rows.value?.some((r) => r[f])
const filter = ref('')
const shown = computed(() => {
  const needle = filter.value.trim().toLocaleLowerCase()
  return (rows.value ?? []).filter(
    (r) => !needle || `${r.name} ${r.address} ${r.number}`.toLocaleLowerCase().includes(needle),
  )
})
const mending = ref<Record<string, string>>({})
async function mend(row: string) {
  try {
    await api.PUT('/classes/{classId}/roster/{rowId}/address', {
      params: { path: { classId: classId.value, rowId: row } },
      body: { address: mending.value[row] },
    })
    delete mending.value[row]
    await queries.invalidateQueries({ queryKey: ['roster', classId.value] })
  } catch (e) {
    tellProblem(e)
  }
}
const entering = computed(() => bringing.value || (mayChange.value && !draft.value && rows.value?.length === 0))
</script>

<template>
  <RosterDraft
    v-if="draft && !bringing"
    :class-id="classId"
    :draft="draft"
    @changed="setDraft"
    @accepted="accepted"
    @other="bringing = true"
    @drop="dropDraft"
  />
  <section
    v-else-if="entering"
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
      class="paste"
      rows="9"
      :placeholder="t('roster.paste-here')"
      :aria-label="t('roster.paste-here')"
      autofocus
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
      <Button v-if="bringing" @click="bringing = false">{{ t('act.cancel') }}</Button>
      <input ref="file" type="file" accept=".csv,.tsv,.txt,text/*" hidden @change="upload(file?.files?.[0])" />
      <span class="quiet">{{ t('roster.drop') }}</span>
    </div>
  </section>
  <section v-else-if="rows" class="list">
    <Teleport defer to="#head-acts"
      ><Button v-if="mayChange" data-act="bring" @click="bringing = true">{{ t('roster.newer') }}</Button></Teleport
    >
    <div class="over">
      <p class="quiet">
        {{ rows.length ? t('roster.accepted', { n: rows.length }, rows.length) : t('register.empty') }}
      </p>
      <Input
        v-if="rows.length"
        v-model:value="filter"
        class="search"
        allow-clear
        :placeholder="t('register.find')"
        :aria-label="t('register.find')"
      />
    </div>
    <div class="scroll">
      <table v-if="rows.length" :aria-label="t('page.roster')">
        <thead>
          <tr>
            <th>{{ t('register.student') }}</th>
            <th>{{ t('roster.address') }}</th>
            <th v-if="has('number')">{{ t('column.student-number') }}</th>
            <th v-if="has('period')">{{ t('column.period') }}</th>
            <th v-if="has('level')">{{ t('column.level') }}</th>
            <th v-if="has('team')">{{ t('column.team') }}</th>
            <th v-for="x in extras" :key="x">{{ x }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="r in shown" :key="r.row" :class="{ doubt: r.problem }">
            <td class="strong">
              <bdi>{{ r.sortName }}</bdi>
            </td>
            <td>
              <form v-if="r.row in mending" class="mend" @submit.prevent="mend(r.row)">
                <Input
                  v-model:value="mending[r.row]"
                  size="small"
                  :aria-label="t('roster.address')"
                  autofocus
                  @keydown.esc="delete mending[r.row]"
                /><Button size="small" html-type="submit">{{ t('act.done') }}</Button>
              </form>
              <template v-else>
                {{ r.address }}
                <template v-if="r.problem"
                  ><span class="bad"> {{ reasonText(r.problem) }} </span
                  ><button
                    v-if="mayChange"
                    class="link"
                    @click="mending[r.row] = r.problem!.args?.suggestion ?? r.address"
                  >
                    {{
                      r.problem.args?.suggestion
                        ? t('list.use', { address: r.problem.args.suggestion })
                        : t('roster.correct')
                    }}
                  </button></template
                >
              </template>
            </td>
            <td v-if="has('number')">{{ r.number }}</td>
            <td v-if="has('period')">{{ r.period }}</td>
            <td v-if="has('level')">{{ r.level }}</td>
            <td v-if="has('team')">{{ r.team }}</td>
            <td v-for="x in extras" :key="x">{{ r.extra[x] }}</td>
          </tr>
        </tbody>
      </table>
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
.list {
  display: flex;
  flex-direction: column;
  min-height: 0;
  padding: 10px 24px 0;
}
.over {
  display: flex;
  justify-content: space-between;
  gap: 16px;
  margin-bottom: 8px;
}
.search {
  width: 190px;
}
.scroll {
  overflow: auto;
  flex: 1;
  min-height: 0;
}
table {
  border-collapse: separate;
  border-spacing: 0;
  width: 100%;
  font-size: 14px;
}
th {
  position: sticky;
  top: 0;
  background: var(--paper);
  text-align: left;
  font-weight: 600;
  font-size: 12.5px;
  color: var(--ink-2);
  padding: 0 10px 6px 0;
  border-bottom: 1.5px solid var(--thread);
}
td {
  height: 26px;
  padding: 0 10px 0 0;
  border-bottom: 1px solid var(--thread-2);
  white-space: nowrap;
}
.mend {
  display: flex;
  gap: 6px;
  max-width: 380px;
}
</style>
