<script setup lang="ts">
import { Button, Input, Modal, Popover, Radio, RadioGroup, Textarea } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, nextTick, onBeforeUnmount, onMounted, ref, useTemplateRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { plainName } from '@/parts/plainName'
import { useRoute, useRouter } from 'vue-router'
import { api, data, ProblemError, type Of } from '@/api/client'
import { isTyping } from '@/keys'
import { useKeeping } from '@/parts/keeping'
import ChoiceBuilder from '@/parts/ChoiceBuilder.vue'
import { columnValues } from '@/parts/columnValues'
import { isOwn, useFieldName } from '@/parts/fieldName'
import PackingLines from '@/parts/PackingLines.vue'
import PatternField from '@/parts/PatternField.vue'
import PickOne from '@/parts/PickOne.vue'
import { sentence, tellDone, tellProblem } from '@/tell'
import { ago, usualDue, wall } from '@/when'
import { now } from '@/me'
import TemplatePicker from './TemplatePicker.vue'
import { correctAddress, sayTheirs } from './address'
import { useClass } from './theClass'

/** One handout: a sentence to edit on the left, exactly what it will do on the right. */
const { cls, classId } = useClass()
const { t } = useI18n()
const route = useRoute()
const router = useRouter()
const queries = useQueryClient()
const handoutId = computed(() => String(route.params.handoutId))
const path = computed(() => ({ path: { classId: classId.value, handoutId: handoutId.value } }))
const queryKey = computed(() => ['handout', classId.value, handoutId.value])
const { data: h, error } = useQuery({
  queryKey,
  queryFn: () => data(api.GET('/classes/{classId}/handouts/{handoutId}', { params: path.value })),
})
watch(error, (e) => e instanceof ProblemError && e.status === 404 && router.replace({ name: 'handouts' }))

const open = ref('') // which part of the sentence is being edited
const problems = ref<Record<string, string>>({})
const saved = ref(0)
const busy = ref(false)
const mayPack = computed(() => cls.value?.my === 'owner' || cls.value?.my === 'teacher')

// Every change is kept at once; changes go one after the other. With each goes what
// was looked at: where somebody changed that since, both values are told.
type Parts = Of<'HandoutParts'>
const looked = (x: Of<'Handout'>): Parts => ({
  title: x.title,
  template: x.template?.id ?? '',
  name: x.name,
  pocket: x.pocket,
  level: x.level,
  due: x.due,
  message: x.message,
  choice: x.choice,
  out: Object.fromEntries(x.out.map((o) => [o.row, o.reason])),
})
let base: Parts = {}
function wasOf(to: Parts): Parts {
  const was = Object.fromEntries(Object.keys(to).map((k) => [k, base[k as keyof Parts]])) as Parts
  if (to.out) was.out = Object.fromEntries(Object.keys(to.out).map((row) => [row, base.out?.[row] ?? '']))
  return was
}
// Each change knows the handout it is for: the page may be another by the time it goes out.
const keeping = useKeeping<{ to: Parts; of: { path: { classId: string; handoutId: string } } }>(
  async (field, { to, of }) => {
    const key = ['handout', of.path.classId, of.path.handoutId]
    try {
      const body = { to, was: wasOf(to) }
      const next = await data(
        api.PATCH('/classes/{classId}/handouts/{handoutId}', { params: of, body, keepalive: true }),
      )
      const kept = looked(next)
      for (const k of Object.keys(to) as (keyof Parts)[]) Object.assign(base, { [k]: kept[k] })
      queries.setQueryData(key, next)
      saved.value = now()
      delete problems.value[field]
    } catch (e) {
      problems.value[field] = sentence(e)
      if (!(e instanceof ProblemError) || e.code !== 'changed') return
      base = {} // what there is now is looked at from here on
      await queries.invalidateQueries({ queryKey: key })
    }
  },
)
const change = (to: Parts, field: string) => keeping.keep(field, { to, of: path.value })
const later = (to: Parts, field: string) => keeping.later(field, { to, of: path.value })
const title = ref('')
const message = ref('')
const due = ref('')
const name = ref<Of<'Part'>[]>([])
watch(
  h,
  (x) => {
    if (!x) return
    // What is being edited was looked at when its editing began.
    const now = looked(x)
    const editing = open.value === 'who' ? 'choice' : open.value
    for (const k of Object.keys(now) as (keyof Parts)[])
      if (k !== editing || !(k in base)) Object.assign(base, { [k]: now[k] })
    if (open.value !== 'title') title.value = x.title
    if (open.value !== 'message') message.value = x.message
    if (open.value !== 'due') due.value = x.due
    if (open.value !== 'name') name.value = x.name
  },
  { immediate: true },
)
watch(open, () => void keeping.flush())
// A field that is left for another doesn't close that one.
const close = (part: string) => void (open.value === part && (open.value = ''))
watch(name, (p) => open.value === 'name' && later({ name: p }, 'name'))
watch(title, (v) => open.value === 'title' && later({ title: v }, 'title'))
watch(message, (v) => open.value === 'message' && later({ message: v }, 'message'))
watch(due, (v) => open.value === 'due' && later({ due: v }, 'due'))

const columnLabel = useFieldName()
const written = computed(() =>
  (h.value?.name ?? []).map((p) => (p.column ? `[${columnLabel(p.column)}]` : p.text)).join(''),
)
const copies = computed(
  () => h.value?.list.lines.filter((l) => l.purpose === 'copy' && l.section !== 'to-change') ?? [],
)
const newCopies = computed(() => copies.value.filter((l) => l.act === 'make' && l.section === 'to-pack').length)
const said = ref<Record<string, boolean>>({})
const ticked = computed(() =>
  (h.value?.list.lines ?? [])
    .filter((l) => l.section === 'to-change' && (said.value[l.key] ?? l.ticked))
    .map((l) => l.key),
)
const things = computed(() => (h.value?.list.counts['to-pack'] ?? 0) + ticked.value.length)
const inCount = computed(() => (cls.value?.students ?? 0) - (h.value?.out.length ?? 0))
const pocket = computed(() => cls.value?.pockets.find((p) => p.id === h.value?.pocket)?.name)
const apart = computed(() => copies.value.find((l) => l.apart)?.apart)
const ready = computed(() => !!h.value?.template && !!h.value?.title && !problems.value.name)
// Who gets one: kept as it is chosen; a condition that is still being typed waits.
const choice = ref<Of<'Choice'>>({ any: false, conditions: [], ticked: {} })
watch(h, (x) => x && open.value !== 'who' && (choice.value = x.choice), { immediate: true })
const { data: rows } = useQuery({
  queryKey: computed(() => ['roster', classId.value]),
  enabled: computed(() => open.value === 'who'),
  queryFn: () => data(api.GET('/classes/{classId}/roster', { params: { path: { classId: classId.value } } })),
})
const valuesOf = (column: string) => columnValues(rows.value ?? [], column)
function choose(c: Of<'Choice'>) {
  choice.value = c
  const whole = c.conditions.filter(
    (x) => x.test === 'empty' || x.test === 'not-empty' || x.values.some((v) => v.trim()),
  )
  later({ choice: { ...c, conditions: whole } }, 'choice')
}
const editor = useTemplateRef<HTMLElement>('nameEditor')
watch(open, (o) => o === 'name' && nextTick(() => editor.value?.querySelector('input')?.focus()))

async function pack() {
  if (!ready.value || !things.value || busy.value) return
  busy.value = true
  try {
    await keeping.flush()
    if (Object.keys(problems.value).length) return
    await api.POST('/classes/{classId}/handouts/{handoutId}/pack', {
      params: path.value,
      body: { seen: h.value!.list.digest, changes: ticked.value },
    })
    void router.push({ name: 'register', params: { classId: classId.value } })
  } catch (e) {
    tellProblem(e)
    await queries.invalidateQueries({ queryKey: queryKey.value })
  } finally {
    busy.value = false
  }
}
async function mend(how: Promise<unknown>) {
  try {
    await how
    await queries.invalidateQueries({ queryKey: queryKey.value })
  } catch (e) {
    tellProblem(e)
  }
}
function throwAway() {
  Modal.confirm({
    title: t('handout.throw-title', { title: h.value?.title || t('handouts.untitled') }),
    content: t('handout.throw-text'),
    okText: t('handout.throw'),
    cancelText: t('act.cancel'),
    okButtonProps: { danger: true },
    async onOk() {
      await api.DELETE('/classes/{classId}/handouts/{handoutId}', { params: path.value })
      await queries.invalidateQueries({ queryKey: ['handouts', classId.value] })
      void router.replace({ name: 'handouts', params: { classId: classId.value } })
    },
  })
}
function keep() {
  tellDone(t('handout.kept'))
  void router.push({ name: 'handouts', params: { classId: classId.value } })
}
async function useTemplate(id: string) {
  open.value = ''
  await change({ template: id }, 'template')
}
function keys(e: KeyboardEvent) {
  if (e.key === 'Escape') open.value = ''
  if (e.key === 'p' && !isTyping(e) && !e.ctrlKey && !e.metaKey) void pack()
}
onMounted(() => window.addEventListener('keydown', keys))
onBeforeUnmount(() => window.removeEventListener('keydown', keys))
const levels = ['edit', 'comment', 'read'] as const
</script>

<template>
  <div v-if="h && cls" class="work">
    <section class="say">
      <div class="sub">
        <h2>{{ h.title || t('handouts.untitled') }}</h2>
        <span class="quiet"
          >{{ h.packedAt ? t('handout.packed', { when: ago(Date.parse(h.packedAt), t) }) : t('handout.new')
          }}<template v-if="saved"> · {{ t('handout.saved', { when: ago(saved, t) }) }}</template></span
        >
      </div>
      <p>
        {{ t('say.give') }}
        <button
          class="plain u"
          :class="{ on: open === 'template', bad: !h.template }"
          :disabled="!!h.packedAt || !mayPack"
          data-part="template"
          @click="open = open === 'template' ? '' : 'template'"
        >
          {{ h.template ? plainName(h.template.name) : t('say.choose') }}
        </button>
        {{ t('say.as-copy') }}
        <button
          class="plain u"
          :class="{ on: open === 'who' }"
          :disabled="!mayPack"
          data-part="who"
          @click="open = open === 'who' ? '' : 'who'"
        >
          {{ t('say.each-of', { n: inCount, class: cls.name }, inCount) }}</button><template v-if="h.out.length"
          >; {{ t('say.sit-out', { n: h.out.length }, h.out.length) }}</template
        >.
      </p>
      <div v-if="open === 'who'" class="pop who">
        <ChoiceBuilder
          :model-value="choice"
          :classes="[classId]"
          :columns="cls.columns.map((c) => c.field).filter((f) => !isOwn(f))"
          :values="valuesOf"
          :sits-out="h.out.filter((o) => o.reason === 'sits-out').map((o) => o.row)"
          @update:model-value="choose"
        />
        <p v-if="problems.choice" class="bad" role="alert">{{ problems.choice }}</p>
        <p class="quiet help">{{ t('say.who-help') }}</p>
      </div>
      <div v-if="open === 'template'" class="pop"><TemplatePicker @choose="useTemplate" /></div>
      <p v-if="problems.template" class="bad" role="alert">{{ problems.template }}</p>
      <p>
        {{ t('say.each') }}
        <Popover
          trigger="click"
          :open="open === 'level'"
          placement="bottomLeft"
          @open-change="(o: boolean) => (open = o ? 'level' : '')"
        >
          <template #content>
            <RadioGroup
              :value="h.level"
              class="levels"
              @update:value="
                (v: string) => {
                  open = ''
                  void change({ level: v }, 'level')
                }
              "
            >
              <Radio v-for="l in levels" :key="l" :value="l"
                >{{ t(`level.${l}`) }}<span class="quiet help">{{ t(`level-help.${l}`) }}</span></Radio
              >
            </RadioGroup>
          </template>
          <button class="plain u" :disabled="!mayPack" data-part="level">{{ t(`level.${h.level}`) }}</button>
        </Popover>
        {{ t('say.own-copy') }}
      </p>
      <p>
        {{ t('say.call') }}
        <button
          class="plain u"
          :class="{ on: open === 'name' }"
          :disabled="!mayPack"
          data-part="name"
          @click="open = open === 'name' ? '' : 'name'"
        >
          {{ written }}
        </button>
        {{ t('say.put') }}
        <PickOne
          v-if="cls.pockets.length && mayPack && !h.packedAt"
          class="u-select"
          :model-value="h.pocket"
          :label="t('say.put')"
          :options="[
            { value: '', label: t('say.satchel') },
            ...cls.pockets.map((p) => ({ value: p.id, label: t('say.satchel-pocket', { pocket: p.name }) })),
          ]"
          @update:model-value="(v) => change({ pocket: v }, 'pocket')"
        />
        <template v-else>{{ pocket ? t('say.satchel-pocket', { pocket }) : t('say.satchel') }}</template>.
      </p>
      <div v-if="open === 'name'" ref="nameEditor" class="pop">
        <PatternField v-model="name" :columns="cls.columns.map((c) => c.field)" />
        <p v-if="problems.name" class="bad" role="alert">{{ problems.name }}</p>
        <p class="quiet example">
          {{ t('pattern.example', { name: plainName(copies[0]?.name ?? '') })
          }}<template v-if="apart"
            >{{ ' ' }}<strong>{{ t(`apart.${apart}`) }}</strong></template
          >
        </p>
      </div>
      <p>
        {{ t('say.title') }}
        <button v-if="open !== 'title'" class="plain u" :disabled="!mayPack" data-part="title" @click="open = 'title'">
          {{ h.title || t('say.choose-title') }}
        </button>
        <Input
          v-else
          v-model:value="title"
          class="inline"
          :maxlength="200"
          autofocus
          @blur="close('title')"
          @press-enter="open = ''"
        />.
        {{ t('say.due') }}
        <button
          v-if="open !== 'due'"
          class="plain u"
          :disabled="!mayPack"
          data-part="due"
          @click="
            () => {
              due = h!.due || usualDue()
              open = 'due'
              if (!h!.due) void change({ due }, 'due')
            }
          "
        >
          {{ h.due ? wall(h.due) : t('say.no-due') }}
        </button>
        <span v-else class="when">
          <input
            v-model="due"
            type="datetime-local"
            class="field"
            :aria-label="t('say.due')"
            @keydown.enter="open = ''"
          />
          <Button size="small" @click="open = ''">{{ t('act.done') }}</Button>
          <Button
            size="small"
            type="text"
            @click="
              () => {
                open = ''
                void change({ due: '' }, 'due')
              }
            "
            >{{ t('say.no-due') }}</Button
          > </span
        >.
      </p>
      <p v-if="problems.due || problems.title" class="bad" role="alert">{{ problems.due || problems.title }}</p>
      <p class="message">
        {{ t('say.with') }}
        <button
          v-if="open !== 'message'"
          class="plain u soft"
          :disabled="!mayPack"
          data-part="message"
          @click="open = 'message'"
        >
          {{ h.message || t('say.nothing') }}
        </button>
        <Textarea
          v-else
          v-model:value="message"
          :auto-size="{ minRows: 2, maxRows: 8 }"
          :maxlength="2000"
          autofocus
          @blur="close('message')"
        />
      </p>
      <p class="note quiet">{{ t('handout.template-safe') }}</p>
      <button v-if="!h.packedAt && mayPack" class="link throw" @click="throwAway">{{ t('handout.throw') }}</button>
    </section>
    <section class="side">
      <p v-if="!h.template" class="quiet first">{{ t('handout.needs-template') }}</p>
      <PackingLines
        v-else
        :list="h.list"
        main="copy"
        :may-fix="mayPack"
        :ticked="ticked"
        @tick="(key, on) => (said = { ...said, [key]: on })"
        @fix="(row, address) => mend(correctAddress(classId, row, address))"
        @confirm="(row) => mend(sayTheirs(classId, row))"
        @out="(row, why) => change({ out: { [row]: why } }, 'out')"
        @in="(row) => change({ out: { [row]: '' } }, 'out')"
      />
      <div class="foot">
        <Button type="primary" :disabled="!ready || !things || !mayPack" :loading="busy" data-act="pack" @click="pack">
          {{
            (newCopies && !ticked.length) || !things || !h.template
              ? t('handout.pack', { n: h.template ? newCopies : 0 }, h.template ? newCopies : 0)
              : t('handout.pack-rest', { n: things }, things)
          }}
        </Button>
        <Button v-if="!h.packedAt" @click="keep">{{ t('handout.keep') }}</Button>
        <span class="grow" />
        <span class="quiet">{{
          !h.template
            ? ''
            : things
              ? t('list.seconds', { n: Math.max(1, Math.ceil(h.list.seconds)) })
              : t('list.nothing')
        }}</span>
      </div>
    </section>
  </div>
</template>

<style scoped>
.work {
  display: grid;
  grid-template-columns: minmax(380px, 468px) minmax(0, 1fr);
  min-height: 0;
}
.say {
  padding: 14px 26px 20px 24px;
  font-size: 17.5px;
  line-height: 1.72;
  overflow-y: auto;
}
.say p {
  margin-bottom: 12px;
}
.first {
  flex: 1;
}
.sub {
  display: flex;
  gap: 12px;
  align-items: baseline;
  flex-wrap: wrap;
  margin-bottom: 12px;
  font-size: 14px;
}
.u {
  border-bottom: 2px solid var(--belt-done) !important;
  font-weight: 600;
  padding: 0 1px !important;
  color: var(--leather-2) !important;
  display: inline;
  line-height: 1.35;
}
.u.soft {
  font-weight: 400;
}
.u:disabled {
  border-bottom-color: transparent !important;
  color: var(--ink) !important;
  cursor: default;
}
.u.on,
.u:hover:not(:disabled) {
  background: var(--leather-soft) !important;
  border-radius: 4px 4px 0 0;
}
.u.bad {
  border-bottom-style: dashed !important;
}
.u-select {
  font-size: 17.5px;
  font-weight: 600;
  color: var(--leather-2);
  border: 0;
  border-bottom: 2px solid var(--belt-done);
  border-radius: 0;
  padding: 0;
  background: none;
}
.u-select option {
  font-size: 15px;
  background: var(--sheet);
}
.pop {
  background: var(--sheet);
  border: 1px solid var(--thread);
  border-radius: 8px;
  box-shadow: 0 6px 22px rgba(42, 35, 49, 0.12);
  padding: 12px 14px;
  font-size: 14.5px;
  line-height: 1.45;
  margin: 2px 0 14px;
}
.pop .example {
  margin: 9px 0 0;
}
.pop .example strong {
  color: var(--ink);
}
.levels {
  display: grid;
  gap: 8px;
}
.help {
  display: block;
  font-size: 13.5px;
}
.inline {
  width: 260px;
}
.when {
  display: inline-flex;
  gap: 6px;
  align-items: center;
}
.field {
  font: inherit;
  font-size: 15px;
  border: 1px solid var(--line-field);
  border-radius: 6px;
  padding: 3px 8px;
  background: var(--sheet);
  color: var(--ink);
}
.message,
.note {
  font-size: 15px;
}
.note {
  font-size: 14px;
  line-height: 1.45;
}
.throw {
  color: var(--brick);
  font-size: 14px;
}
.side {
  background: var(--sheet);
  border-left: 1px solid var(--thread);
  margin-top: 10px;
  padding: 14px 24px 0;
  min-width: 0;
  min-height: 0;
  display: flex;
  flex-direction: column;
}
.foot {
  border-top: 1px solid var(--thread);
  margin: 0 -24px;
  padding: 12px 24px;
  display: flex;
  align-items: center;
  gap: 12px;
  font-size: 14px;
}
@media (max-width: 1000px) {
  .work {
    grid-template-columns: minmax(0, 1fr);
    overflow-y: auto;
  }
}
</style>
