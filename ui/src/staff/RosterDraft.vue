<script setup lang="ts">
import { Button, Checkbox, Segmented } from 'ant-design-vue'
import DraftChanges from './DraftChanges.vue'
import DraftSettings from './DraftSettings.vue'
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { sentence, tellProblem } from '@/tell'

/** A list that waits to be accepted: what was recognised, every doubt in its place, corrections in the table itself. */
const props = defineProps<{ classId: string; draft: Of<'Draft'> }>()
const emit = defineEmits<{ changed: [Of<'Draft'>]; accepted: [Of<'Accepted'>]; other: []; drop: []; stale: [] }>()
const { t, te } = useI18n()
const busy = ref(false)
const problem = ref('')
const path = { path: { classId: props.classId } }
const table = useTemplateRef<HTMLElement>('table')

async function change(...changes: Of<'DraftChange'>[]) {
  try {
    const body = { draft: props.draft.id, changes }
    emit('changed', await data(api.PATCH('/classes/{classId}/draft', { params: path, body })))
    return true
  } catch (e) {
    tellProblem(e)
    emit('stale')
    return false
  }
}
const roles = [
  'given',
  'family',
  'full',
  'preferred',
  'address',
  'number',
  'class',
  'period',
  'level',
  'team',
  'extra',
  'none',
] as const
const fields = computed(() =>
  props.draft.columns
    .map((_, i) => i)
    .filter((i) => props.draft.columns[i].role !== 'none' || props.draft.columns[i].heading),
)
const rows = computed(() => props.draft.rows.filter((r) => r.state !== 'heading' && r.state !== 'title'))
const at = computed(() => {
  const m = new Map<string, string>()
  for (const f of props.draft.findings) {
    const k = `${f.row}:${f.field}`
    if (f.severity !== 'note' && m.get(k) !== 'error') m.set(k, f.severity)
  }
  return m
})
// Long lists are shown a window at a time: the page keeps its pace.
const from = ref(0)
const tall = computed(() => rows.value.length > 400)
const windowed = computed(() => (tall.value ? rows.value.slice(from.value, from.value + 200) : rows.value))
const byRow = computed(() => {
  const m = new Map<number, Of<'Finding'>[]>()
  for (const f of props.draft.findings) m.set(f.row, [...(m.get(f.row) ?? []), f])
  return m
})
const errors = computed(() => props.draft.findings.filter((f) => f.severity === 'error'))
const warnings = computed(() =>
  props.draft.findings.filter(
    (f, i, all) =>
      f.severity === 'warning' &&
      !(f.code === 'same-name' && all.findIndex((g) => g.code === 'same-name' && g.args.rows === f.args.rows) !== i),
  ),
)
// Many of one kind are told once, with the rest behind a word.
const opened = ref<string[]>([])
const kinds = computed(() => {
  const groups = new Map<string, Of<'Finding'>[]>()
  for (const f of [...errors.value, ...warnings.value]) groups.set(f.code, [...(groups.get(f.code) ?? []), f])
  return [...groups].map(([code, all]) => ({
    code,
    all,
    shown: all.length <= 4 || opened.value.includes(code) ? all : all.slice(0, 3),
  }))
})
const cellOf = (row: number, field: number) => rows.value.find((r) => r.line === row)?.cells[field] ?? ''
const suggested = (all: Of<'Finding'>[]) =>
  all
    .filter((f) => f.args.suggestion && f.field >= 0)
    .map((f) => ({ cell: { row: f.row, field: f.field, value: f.args.suggestion }, was: cellOf(f.row, f.field) }))
// Rows that were passed over for what they look like, or by the teacher: each says why, and can be taken in.
const out = computed(() =>
  props.draft.findings.filter((f) => ['row-left-out', 'heading-again', 'total-row'].includes(f.code)),
)
const undecided = computed(() => props.draft.groups.filter((g) => !g.target).length)
const noAddresses = computed(() => errors.value.some((f) => f.code === 'no-address-column'))
const noNames = computed(
  () => !props.draft.columns.some((c) => ['given', 'family', 'full', 'preferred'].includes(c.role)),
)
// Where nothing needs a look, the list has the page.
const settings = useTemplateRef<{ any: unknown }>('settings')
const well = computed(
  () => !settings.value?.any && !errors.value.length && !warnings.value.length && !out.value.length && !noNames.value,
)
// A newer list shows what it changes first; the list itself is one word away.
const look = ref<'changes' | 'list'>('changes')
const comparing = computed(() => props.draft.compared && look.value === 'changes')
const accepted = computed(() => props.draft.lines.filter((l) => l.accepted && l.kind !== 'unchanged'))
const unanswered = computed(() => accepted.value.filter((l) => l.kind === 'doubtful').length)
const may = computed(
  () =>
    props.draft.counts.students > 0 &&
    (!noAddresses.value || props.draft.without) &&
    !unanswered.value &&
    !undecided.value &&
    (!props.draft.compared || accepted.value.length > 0),
)
const acceptWords = computed(() => {
  const n = props.draft.compared ? accepted.value.length : props.draft.counts.students
  return t(props.draft.compared ? 'compare.accept' : 'draft.accept', { n }, n)
})
const words = (f: Of<'Finding'>, what: 'title' | 'text') => {
  const key = `finding.${f.code}.${what}`
  return te(key) ? t(key, f.args) : what === 'title' ? f.message : ''
}

const editing = ref<{ row: number; field: number } | null>(null)
const value = ref('')
let began = ''
const selected = ref(0)
function edit(row: number, field: number, cell: string) {
  editing.value = { row, field }
  value.value = began = cell
  void nextTick(() => table.value?.querySelector<HTMLInputElement>('input.edit')?.select())
}
async function leave(save: boolean) {
  const e = editing.value
  editing.value = null
  if (!e || !save) return
  if (began !== value.value) await change({ cell: { row: e.row, field: e.field, value: value.value }, was: began })
}
async function go(f: Of<'Finding'>) {
  look.value = 'list'
  const place = rows.value.findIndex((r) => r.line === f.row)
  if (tall.value && place >= 0) from.value = Math.floor(place / 200) * 200
  await nextTick()
  selected.value = f.row
  const tr = table.value?.querySelector(`[data-row="${f.row}"]`)
  tr?.scrollIntoView({ block: 'center' })
  if (f.field >= 0) {
    const r = rows.value.find((x) => x.line === f.row)
    if (r) edit(f.row, f.field, r.cells[f.field] ?? '')
  }
}
async function accept() {
  busy.value = true
  problem.value = ''
  try {
    const { id, revision, looked } = props.draft
    emit(
      'accepted',
      await data(api.POST('/classes/{classId}/draft/accept', { params: path, body: { id, revision, looked } })),
    )
  } catch (e) {
    problem.value = sentence(e)
    emit('stale')
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <div class="work" :class="{ well }">
    <Teleport defer to="#head-acts"
      ><Button @click="emit('other')">{{ t('draft.other') }}</Button></Teleport
    >
    <section class="left">
      <p class="lead">
        {{ t('draft.rows-n', { n: draft.counts.rows }, draft.counts.rows) }},
        {{ t('draft.columns-n', { n: draft.columns.length }, draft.columns.length) }}.
        <b>{{ t('draft.ready', { n: draft.counts.students }, draft.counts.students) }}</b><template
          v-if="draft.counts.left_out"
          >, {{ t('draft.left-out', { n: draft.counts.left_out }, draft.counts.left_out) }}</template
        ><template v-if="draft.counts.blank"
          >, {{ t('draft.blank', { n: draft.counts.blank }, draft.counts.blank) }}</template
        >. <template v-if="well">{{ t('draft.all-well') }}. </template>{{ t('draft.nothing-yet') }}
      </p>
      <div v-if="draft.compared" class="looks">
        <Segmented
          v-model:value="look"
          :options="[
            { value: 'changes', label: t('compare.what-changes') },
            { value: 'list', label: t('compare.the-list') },
          ]"
        />
      </div>
      <DraftChanges v-if="comparing" :draft="draft" @change="(c) => change(...c)" />
      <div v-else ref="table" class="scroll">
        <table :aria-label="t('draft.table')">
          <thead>
            <tr>
              <th class="no">
                <span class="visually-hidden">{{ t('draft.row') }}</span>
              </th>
              <th v-for="i in fields" :key="i">
                <select
                  class="role"
                  :class="{
                    unsure: draft.columns[i].confidence < 0.75 && draft.columns[i].role !== 'extra',
                    kept: draft.columns[i].role === 'extra' || draft.columns[i].role === 'none',
                  }"
                  :value="draft.columns[i].role"
                  :aria-label="t('draft.what-is', { heading: draft.columns[i].heading || i + 1 })"
                  @change="
                    change({
                      role: { field: i, role: ($event.target as HTMLSelectElement).value as Of<'Role'> },
                      was: draft.columns[i].role,
                    })
                  "
                >
                  <option v-for="r in roles" :key="r" :value="r">
                    {{ t(`role-of.${r}`)
                    }}{{
                      r === draft.columns[i].role && draft.columns[i].confidence < 0.75 && r !== 'extra' && r !== 'none'
                        ? '?'
                        : ''
                    }}
                  </option>
                </select>
                <span class="heading" :title="draft.columns[i].hidden ? t('draft.hidden-column') : undefined"
                  >{{ draft.columns[i].heading || '\u00a0'
                  }}<template v-if="draft.columns[i].hidden"> ({{ t('draft.hidden') }})</template></span
                >
                <span v-if="draft.columns[i].note === 'school-year'" class="heading note">{{
                  t('draft.school-year')
                }}</span>
              </th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="r in windowed" :key="r.line" :data-row="r.line" :class="[r.state, { cur: selected === r.line }]">
              <td class="no">{{ r.line }}</td>
              <td v-if="r.state === 'blank' || r.state === 'hidden'" :colspan="fields.length">
                {{ t(`draft.row-${r.state}`) }}
                <button
                  v-if="r.state === 'hidden'"
                  class="link"
                  @click="change({ leftOut: { row: r.line, out: false } })"
                >
                  {{ t('list.take-in') }}
                </button>
              </td>
              <template v-else>
                <td
                  v-for="i in fields"
                  :key="i"
                  :class="at.get(`${r.line}:${i}`)"
                  @click="editing?.row === r.line && editing.field === i ? null : edit(r.line, i, r.cells[i] ?? '')"
                >
                  <input
                    v-if="editing?.row === r.line && editing.field === i"
                    v-model="value"
                    class="edit"
                    :aria-label="draft.columns[i].heading"
                    @blur="leave(true)"
                    @keydown.enter="($event.target as HTMLInputElement).blur()"
                    @keydown.esc.stop="leave(false)"
                  />
                  <button
                    v-else
                    class="plain cell"
                    :title="byRow.get(r.line)?.find((f) => f.field === i)?.message"
                    @click.stop="edit(r.line, i, r.cells[i] ?? '')"
                  >
                    <bdi>{{ r.cells[i] || '\u00a0' }}</bdi>
                  </button>
                </td>
              </template>
            </tr>
          </tbody>
        </table>
        <p v-if="tall" class="quiet more">
          <button v-if="from > 0" class="link" @click="from -= 200">{{ t('draft.earlier-rows') }}</button>
          {{ ' ' }}
          <button v-if="from + 200 < rows.length" class="link" @click="from += 200">{{ t('draft.later-rows') }}</button>
        </p>
        <p v-if="draft.shown < draft.counts.rows" class="quiet more">
          {{ t('draft.more', { n: draft.counts.rows - draft.shown }) }}
        </p>
      </div>
      <div class="foot">
        <Button type="primary" :disabled="!may" :loading="busy" data-act="accept" @click="accept">{{
          acceptWords
        }}</Button>
        <Button @click="emit('drop')">{{ t('draft.drop') }}</Button>
        <span v-if="problem" class="bad" role="alert">{{ problem }}</span>
        <span class="grow" />
        <span v-if="undecided" class="quiet">{{ t('draft.undecided', { n: undecided }, undecided) }}</span>
        <span v-else-if="unanswered" class="quiet">{{ t('compare.unanswered', { n: unanswered }, unanswered) }}</span>
        <span v-else class="quiet">{{
          draft.counts.left_out ? t('draft.stay-out', { n: draft.counts.left_out }, draft.counts.left_out) : ''
        }}</span>
      </div>
    </section>
    <aside v-show="!well" class="desk" :aria-label="t('draft.doubts')">
      <DraftSettings ref="settings" :draft="draft" @change="(c) => change(...c)" />
      <h2>
        {{
          errors.length
            ? t('draft.need-you', { n: errors.length }, errors.length)
            : warnings.length
              ? t('draft.worth-a-look', { n: warnings.length }, warnings.length)
              : undecided
                ? t('draft.undecided', { n: undecided }, undecided)
                : t('draft.all-well')
        }}
      </h2>
      <p class="quiet">
        {{
          errors.length
            ? warnings.length
              ? t('draft.worth-a-look', { n: warnings.length }, warnings.length)
              : ''
            : warnings.length
              ? t('draft.nothing-out')
              : undecided
                ? ''
                : t('draft.all-well-text')
        }}
      </p>
      <div v-if="noNames" class="fd e">
        <strong>{{ t('draft.no-names') }}</strong>
        <p>{{ t('draft.no-names-text') }}</p>
      </div>
      <template v-for="k in kinds" :key="k.code">
        <Button
          v-if="suggested(k.all).length > 1"
          class="all"
          size="small"
          data-act="use-all"
          @click="change(...suggested(k.all))"
          >{{ t('draft.use-all', { n: suggested(k.all).length, title: words(k.all[0], 'title') }) }}</Button
        >
        <div v-for="(f, i) in k.shown" :key="i" class="fd" :class="f.severity" :data-finding="f.code">
          <button v-if="f.code !== 'no-address-column'" class="link where" @click="go(f)">
            {{ f.code === 'same-name' ? t('draft.rows', { rows: f.args.rows }) : t('draft.row-n', { n: f.row }) }}
          </button>
          <strong>{{ words(f, 'title') }}</strong>
          <p>{{ words(f, 'text') }}</p>
          <span class="acts">
            <Checkbox
              v-if="f.code === 'no-address-column'"
              :checked="draft.without"
              @update:checked="(v: boolean) => change({ without: v })"
              >{{ t('draft.without') }}</Checkbox
            >
            <Button
              v-if="f.args.suggestion"
              size="small"
              @click="
                change({
                  cell: { row: f.row, field: f.field, value: f.args.suggestion },
                  was: cellOf(f.row, f.field),
                })
              "
              >{{ t('draft.use', { value: f.args.suggestion }) }}</Button
            >
            <Button
              v-if="f.code === 'account-other-name'"
              size="small"
              data-act="same"
              @click="change({ same: { row: f.row, out: true } })"
              >{{ t('draft.same-student') }}</Button
            >
            <Button
              v-if="f.code === 'student-twice'"
              size="small"
              @click="change({ leftOut: { row: Number(f.args.first), out: true } })"
              >{{ t('draft.keep-instead', { n: f.row }) }}</Button
            >
            <Button
              v-if="f.severity === 'error' && f.code !== 'no-address-column'"
              size="small"
              @click="change({ leftOut: { row: f.row, out: true } })"
              >{{ t('list.leave-out') }}</Button
            >
          </span>
        </div>
        <button v-if="k.shown.length < k.all.length" class="link" @click="opened.push(k.code)">
          {{ t('draft.more-like', { n: k.all.length - k.shown.length }, k.all.length - k.shown.length) }}
        </button>
      </template>
      <div v-for="f in out" :key="`o${f.row}`" class="fd">
        <strong>{{
          f.code === 'row-left-out' ? t('draft.you-left-out', { n: f.row }) : t('draft.row-n', { n: f.row })
        }}</strong>
        <p v-if="f.code !== 'row-left-out'">{{ words(f, 'title') }}</p>
        <Button size="small" @click="change({ leftOut: { row: f.row, out: false } })">{{ t('list.take-in') }}</Button>
      </div>
    </aside>
  </div>
</template>

<style scoped>
.work {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 332px;
  min-height: 0;
}
.work.well {
  grid-template-columns: minmax(0, 1fr);
}
.left {
  padding: 14px 0 0 24px;
  min-width: 0;
  min-height: 0;
  display: flex;
  flex-direction: column;
}
.lead {
  font-size: 16px;
  margin: 0 20px 10px 0;
}
.lead b {
  font-weight: 650;
}
.looks {
  margin-bottom: 6px;
}
.scroll {
  flex: 1;
  min-height: 0;
  overflow: auto;
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
  z-index: 1;
  background: var(--paper);
  text-align: left;
  padding: 0 8px 7px 0;
  border-bottom: 1.5px solid var(--thread);
  font-weight: 400;
  font-size: 12.5px;
  color: var(--ink-3);
  vertical-align: bottom;
}
.role {
  display: block;
  appearance: none;
  border: 0;
  font: inherit;
  font-weight: 650;
  font-size: 13.5px;
  color: var(--tide);
  background: var(--tide-soft);
  border-radius: 4px;
  padding: 1px 7px;
  margin-bottom: 3px;
  cursor: pointer;
  max-width: 150px;
}
.role.kept {
  background: var(--rail);
  color: var(--ink-2);
}
.role.unsure {
  background: var(--brass-soft);
  color: var(--brass-text);
}
.role option {
  background: var(--sheet);
  color: var(--ink);
}
.heading {
  display: block;
  padding-left: 7px;
}
td {
  height: 26px;
  border-bottom: 1px solid var(--thread-2);
  padding: 0 8px 0 0;
  white-space: nowrap;
  cursor: text;
  max-width: 320px;
}
td.no {
  color: var(--ink-3);
  width: 34px;
  font-size: 12.5px;
  cursor: default;
}
td .cell {
  width: 100%;
  line-height: 24px;
  cursor: text;
  overflow: hidden;
  text-overflow: ellipsis;
  padding-left: 7px;
}
td.error {
  background: var(--brick-soft);
  box-shadow: inset 0 -2px 0 var(--brick);
}
td.warning {
  background: var(--brass-soft);
  box-shadow: inset 0 -2px 0 var(--brass);
}
tr.cur td:not(.error, .warning) {
  background: var(--leather-soft);
}
tr.blank td,
tr.hidden td {
  color: var(--ink-3);
  font-style: italic;
}
tr.out td:not(.error) {
  color: var(--ink-3);
}
.edit {
  width: 100%;
  min-width: 120px;
  font: inherit;
  border: 1.5px solid var(--leather);
  border-radius: 4px;
  padding: 0 5px;
  height: 24px;
  background: var(--sheet);
  color: var(--ink);
}
.more {
  padding: 10px 0;
}
.foot {
  border-top: 1px solid var(--thread);
  padding: 12px 24px 14px 0;
  display: flex;
  align-items: center;
  gap: 12px;
  font-size: 14px;
}
.desk {
  border-left: 1px solid var(--thread);
  background: var(--sheet);
  margin-top: 10px;
  padding: 16px 20px;
  overflow-y: auto;
  font-size: 14.5px;
}
.fd {
  border-top: 1px solid var(--thread-2);
  padding: 10px 0;
}
.fd:first-of-type {
  margin-top: 10px;
}
.fd strong {
  font-weight: 650;
  display: block;
}
.fd p {
  color: var(--ink-2);
  margin: 1px 0 6px;
  overflow-wrap: anywhere;
}
.all {
  margin-top: 10px;
}
.fd .where {
  float: right;
  font-size: 12.5px;
  margin-left: 8px;
}
.fd.error strong,
.fd.e strong {
  color: var(--brick);
}
.fd.warning strong {
  color: var(--brass-text);
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.acts .ant-btn {
  max-width: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
}
@media (max-width: 1000px) {
  .work {
    grid-template-columns: minmax(0, 1fr);
    overflow-y: auto;
  }
}
</style>
