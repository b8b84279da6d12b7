<script setup lang="ts">
import { Input, Modal, Popover, Radio, RadioGroup, Textarea } from 'ant-design-vue'
import { useQueries, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { api, data, type Of } from '@/api/client'
import { settled } from '@/api/queries'
import { keys } from '@/api/keys'
import { columnValues } from '@/parts/columnValues'
import { useFieldName } from '@/parts/fieldName'
import PatternField from '@/parts/PatternField.vue'
import PickOne from '@/parts/PickOne.vue'
import { plainName } from '@/parts/plainName'
import { tellProblem } from '@/tell'
import { useReasons } from '@/reasons'
import { ago, past, usualDue, usualSend, wall } from '@/when'
import AlsoFor from './AlsoFor.vue'
import type { Hand } from './handout'
import HandoutDocument from './HandoutDocument.vue'
import HandoutDocuments from './HandoutDocuments.vue'
import MailPart from './MailPart.vue'
import ReissuePart from '@/packing/ReissuePart.vue'
import StoodPart from './StoodPart.vue'
import TemplatePicker from './TemplatePicker.vue'
import { useClass } from '@/class/theClass'
import { inOf, useTogether } from './together'
import WallPart from './WallPart.vue'
import WhoPart from './WhoPart.vue'
import WordsPart from './WordsPart.vue'
import WithdrawPart from '@/packing/WithdrawPart.vue'

/** What a handout does, as a sentence whose parts are changed where they stand. */
const props = defineProps<{ hand: Hand }>()
const { h, path, open, problems, saved, change, addDocument, documents, close, title, message, name, copies } =
  props.hand
const { cls, classId, mayPack } = useClass()
const { t } = useI18n()
const router = useRouter()
const queries = useQueryClient()

const columnLabel = useFieldName()
const { reasonText } = useReasons()
const written = computed(() =>
  (h.value?.name ?? []).map((p) => (p.column ? `[${columnLabel(p.column)}]` : p.text)).join(''),
)
const members = useTogether()
const inOwn = computed(() => inOf(cls.value, h.value))
const inCount = computed(() =>
  [...members.values()].reduce((n, m) => n + inOf(m.cls.value, m.hand.h.value), inOwn.value),
)
const outCount = computed(() =>
  [...members.values()].reduce((n, m) => n + (m.hand.h.value?.out.length ?? 0), h.value?.out.length ?? 0),
)
const strange = computed(() => (h.value?.together ?? []).filter((p) => !p.yours).map((p) => p.name))
const who = computed(() => members.get(open.value.replace('who-', '')))
const asked = (n: number, name: string) => t(shared.value ? 'say.all-of' : 'say.each-of', { n, class: name }, n)
async function notFor(other: string) {
  open.value = ''
  try {
    await api.DELETE('/classes/{classId}/handouts/{handoutId}/together/{otherId}', {
      params: { path: { ...path.value.path, otherId: other } },
    })
  } catch (e) {
    tellProblem(e)
  }
  await queries.invalidateQueries({ queryKey: keys.handout(classId.value) })
}
const pocket = computed(() => cls.value?.pockets.find((p) => p.id === h.value?.pocket)?.name)
// What was done to the names: told apart, shortened, made fit for a folder.
const marks = computed(() => [...new Set(copies.value.flatMap((l) => [l.apart, l.altered]).filter(Boolean))])
// Levels that a document can be for: of all the classes it is for.
const rosters = useQueries({
  queries: computed(() =>
    (h.value?.way === 'by-level' ? [classId.value, ...members.keys()] : []).map((id) => ({
      queryKey: keys.roster(id),
      queryFn: () => data(api.GET('/classes/{classId}/roster', { params: { path: { classId: id } } })),
    })),
  ),
})
const levelsThere = computed(() =>
  columnValues(
    rosters.value.flatMap((r) => r.data ?? []),
    h.value?.by || 'level',
  ),
)

function throwAway() {
  Modal.confirm({
    title: t('handout.throw-title', { title: h.value?.title || t('handouts.untitled') }),
    content: t(h.value?.together.length ? 'together.throw' : 'handout.throw-text'),
    okText: t('handout.throw'),
    cancelText: t('act.cancel'),
    okButtonProps: { danger: true },
    // The page is left before its handout ends, so that nothing asks for what is gone.
    async onOk() {
      const [params, from] = [path.value, router.currentRoute.value.fullPath]
      await router.replace({ name: 'handouts', params: { classId: params.path.classId } })
      await settled(queries, params.path.classId)
      try {
        await api.DELETE('/classes/{classId}/handouts/{handoutId}', { params })
        await queries.invalidateQueries({ queryKey: keys.handouts(params.path.classId) })
      } catch (e) {
        tellProblem(e)
        await router.replace(from)
      }
    },
  })
}
async function useTemplate(id: string) {
  close('template')
  await addDocument(id)
}
const ways = computed(() =>
  (['one-each', 'by-level', 'per-team', 'one-for-all', 'notice'] as const).map((w) => ({
    value: w,
    label: t(`say.way-${w}`),
  })),
)
const notice = computed(() => h.value?.way === 'notice')
const shared = computed(() => h.value?.way === 'per-team' || h.value?.way === 'one-for-all')
// The document that is looked at, and columns that can say a level or a team.
const document = computed(() => documents.value.find((d) => open.value === `doc-${d.slot}`))
const columns = computed(() => cls.value?.columns.map((c) => c.field) ?? [])
const groups = computed(() =>
  columns.value
    .filter((f) => f === 'level' || f === 'team' || f.startsWith('extra:'))
    .map((f) => ({ value: f, label: columnLabel(f) })),
)
const levels = ['edit', 'comment', 'read'] as const
// Nobody can be let do more than whose copy it is.
const passings = computed(() => {
  const all = ['nothing', 'read', 'comment', 'edit'] as const
  return all.slice(0, 1 + Math.max(all.indexOf(h.value?.level ?? 'edit'), all.indexOf(h.value?.passing ?? 'nothing')))
})
</script>

<template>
  <section v-if="h && cls" class="say">
    <div class="sub">
      <h2>{{ h.title || t('handouts.untitled') }}</h2>
      <span class="quiet"
        >{{
          h.withdrawnAt
            ? t(notice ? 'notice.taken' : 'handouts.withdrawn', { when: ago(Date.parse(h.withdrawnAt), t) })
            : h.packedAt
              ? t(notice ? 'notice.posted' : 'handout.packed', { when: ago(Date.parse(h.packedAt), t) })
              : t(notice ? 'notice.new' : 'handout.new')
        }}<template v-if="saved"> · {{ t('handout.saved', { when: ago(saved, t) }) }}</template></span
      >
    </div>
    <p>
      {{ t('say.give') }}
      <template v-if="!notice"
        ><HandoutDocuments :hand="hand" :levels="levelsThere" />
        {{ t('say.as') }}
      </template>
      <PickOne
        v-if="mayPack && !h.packedAt"
        class="u-select"
        data-part="way"
        :model-value="h.way"
        :options="ways"
        :label="t('say.as')"
        @update:model-value="(v) => change({ way: v as Of<'Way'> }, 'way')"
      />
      <template v-else>{{ t(`say.way-${h.way}`) }}</template>
      {{ t('say.for') }}
      <button
        class="plain u"
        :class="{ on: open === 'who' }"
        :disabled="!mayPack"
        data-part="who"
        @click="open = open === 'who' ? '' : 'who'"
      >
        {{ asked(inOwn, cls.name) }}</button><template v-for="m in members.values()" :key="m.class"
        >{{ t('say.and')
        }}<button
          class="plain u"
          :class="{ on: open === `who-${m.class}` }"
          :data-part="`who-${m.code}`"
          @click="open = open === `who-${m.class}` ? '' : `who-${m.class}`"
        >
          {{ asked(inOf(m.cls.value, m.hand.h.value), m.name) }}
        </button></template
      ><template v-for="n in strange" :key="n">{{ t('say.and') }}{{ t('together.not-yours', { name: n }) }}</template
      ><template v-if="outCount">; {{ t('say.sit-out', { n: outCount }, outCount) }}</template
      >.
    </p>
    <WhoPart v-if="open === 'who'" :hand="hand" :cls="cls">
      <AlsoFor :h="h" :class-id="classId" @added="(other, picked) => (open = picked ? `who-${other}` : '')" />
      <button v-if="h.together.length" class="link" data-act="not-together" @click="notFor(classId)">
        {{ t('together.alone', { class: cls.name }) }}
      </button>
    </WhoPart>
    <WhoPart v-else-if="who?.cls.value && who.hand.h.value" :key="who.class" :hand="who.hand" :cls="who.cls.value">
      <button class="link" data-act="not-for" @click="notFor(who.class)">
        {{ t(who.hand.h.value?.packedAt ? 'together.alone' : 'together.not', { class: who.name }) }}
      </button>
    </WhoPart>
    <div v-if="open === 'template'" class="pop"><TemplatePicker several :choose="useTemplate" /></div>
    <div v-if="document && mayPack" class="pop">
      <HandoutDocument :hand="hand" :document="document" :columns="columns" />
    </div>
    <p v-if="problems.documents || problems.way || problems.by || problems.teams" class="bad" role="alert">
      {{ problems.documents || problems.way || problems.by || problems.teams }}
    </p>
    <p v-if="h.way === 'by-level' || h.way === 'per-team'">
      {{ t(h.way === 'by-level' ? 'say.levels-by' : 'say.teams-by') }}
      <PickOne
        v-if="mayPack && !h.packedAt"
        class="u-select"
        data-part="by"
        :model-value="h.way === 'by-level' ? h.by : h.teams"
        :options="groups"
        :label="t(h.way === 'by-level' ? 'say.levels-by' : 'say.teams-by')"
        @update:model-value="(v) => (h!.way === 'by-level' ? change({ by: v }, 'by') : change({ teams: v }, 'teams'))"
      /><template v-else>{{ columnLabel(h.way === 'by-level' ? h.by : h.teams) }}</template
      >.
    </p>
    <p v-if="!notice">
      {{ t(`say.who-${h.way}`) }}
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
      {{
        h.way === 'one-for-all' && documents.length > 1
          ? t('say.whose-several-for-all', { n: inCount, k: documents.length })
          : t(`say.whose-${h.way}`, { n: inCount }, inCount)
      }}
      <template v-if="h.way !== 'one-for-all'">
        {{ t(h.way === 'per-team' ? 'say.other-teams' : 'say.classmates') }}
        <PickOne
          v-if="mayPack"
          class="u-select"
          data-part="classmates"
          :model-value="h.classmates"
          :options="(['nothing', 'read', 'comment'] as const).map((l) => ({ value: l, label: t(`say.mates-${l}`) }))"
          :label="t(h.way === 'per-team' ? 'say.other-teams' : 'say.classmates')"
          @update:model-value="(v) => change({ classmates: v }, 'classmates')"
        /><template v-else>{{ t(`say.mates-${h.classmates}`) }}</template
        >.
      </template>
    </p>
    <p v-if="problems.classmates || problems.passing" class="bad" role="alert">
      {{ problems.classmates || problems.passing }}
    </p>
    <p v-if="h.way === 'one-each' || h.way === 'by-level'">
      {{ t('say.pass') }}
      <PickOne
        v-if="mayPack"
        class="u-select"
        data-part="passing"
        :model-value="h.passing"
        :options="passings.map((l) => ({ value: l, label: t(`say.pass-${l}`) }))"
        :label="t('say.pass')"
        @update:model-value="(v) => change({ passing: v }, 'passing')"
      /><template v-else>{{ t(`say.pass-${h.passing}`) }}</template
      >.
    </p>
    <p v-if="h.passing !== 'nothing'" class="quiet note" data-reach>
      {{ t('say.pass-reach', { n: cls.students - 1 }) }}
    </p>
    <p v-if="!notice">
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
      {{ t(shared ? 'say.point' : 'say.put') }}
      <PickOne
        v-if="cls.pockets.length && mayPack"
        class="u-select"
        :model-value="h.pocket"
        :label="t(shared ? 'say.point' : 'say.put')"
        :options="[
          { value: '', label: t('say.satchel') },
          ...cls.pockets.map((p) => ({ value: p.id, label: t('say.satchel-pocket', { pocket: p.name }) })),
        ]"
        @update:model-value="(v) => change({ pocket: v }, 'pocket')"
      />
      <template v-else>{{ pocket ? t('say.satchel-pocket', { pocket }) : t('say.satchel') }}</template>.
    </p>
    <p v-if="h.own.length" class="quiet note" data-own>
      {{ t('own.some', { n: h.own.length }, h.own.length) }}
      <button v-if="mayPack" class="link" @click="change({ own: { rows: h.own, alike: true } }, 'own')">
        {{ t('own.alike') }}
      </button>
    </p>
    <div v-if="open === 'name'" v-focus class="pop">
      <PatternField v-model="name" :columns="columns" />
      <p v-if="problems.name" class="bad" role="alert">{{ problems.name }}</p>
      <p class="quiet example">
        {{ t('pattern.example', { name: plainName(copies[0]?.name ?? '') })
        }}<template v-for="m in marks" :key="m"
          >{{ ' ' }}<strong>{{ t(`naming.${m}`) }}</strong></template
        >
      </p>
    </div>
    <p>
      {{ t('say.title') }}
      <span class="end">
        <button v-if="open !== 'title'" class="plain u" :disabled="!mayPack" data-part="title" @click="open = 'title'">
          {{ h.title || t('say.choose-title') }}
        </button>
        <Input
          v-else
          v-model:value="title"
          v-focus
          class="inline"
          :maxlength="200"
          @blur="close('title')"
          @press-enter="open = ''"
        />.</span
      >
      <template v-if="!notice">
        {{ t('say.due') }}
        <WallPart :hand="hand" part="due" :label="t('say.due')" :none="t('say.no-due')" :usual="usualDue" />
      </template>
    </p>
    <p v-if="h.due && past(h.due) && !h.packedAt" class="quiet note" data-due-over>{{ t('say.due-over') }}</p>
    <p v-if="!h.packedAt">
      {{ t('say.send') }}
      <WallPart
        :hand="hand"
        part="send"
        :label="t('say.send')"
        :none="t(notice ? 'say.no-post' : 'say.no-send')"
        :usual="usualSend"
      />
    </p>
    <p v-if="h.sendProblem" class="bad" role="alert">
      {{ t('handout.not-sent', { when: wall(h.send), why: reasonText(h.sendProblem) }) }}
    </p>
    <p v-if="problems.due || problems.send || problems.title" class="bad" role="alert">
      {{ problems.due || problems.send || problems.title }}
    </p>
    <WordsPart :hand="hand" />
    <p v-if="!notice" class="message">
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
        v-focus
        :auto-size="{ minRows: 2, maxRows: 8 }"
        :maxlength="2000"
        @blur="close('message')"
      />
    </p>
    <MailPart :hand="hand" />
    <p v-if="h.packedAt && h.together.length && !notice" class="quiet note">
      {{ t('together.here-alone', { class: cls.name }) }}
    </p>
    <ReissuePart
      v-if="h.packedAt && !h.withdrawnAt && mayPack && !notice"
      :class-id="classId"
      :handout-id="h.id"
      :own="!shared"
    />
    <StoodPart v-if="h.packedAt" :key="h.id" :class-id="classId" :handout-id="h.id" />
    <p v-if="!notice" class="note quiet">{{ t('handout.template-safe') }}</p>
    <WithdrawPart
      v-if="h.packedAt && mayPack && !notice"
      :key="h.id"
      :class-id="classId"
      :handout-id="h.id"
      :withdrawn-at="h.withdrawnAt"
    />
    <button v-if="!h.packedAt && mayPack" class="link throw" @click="throwAway">{{ t('handout.throw') }}</button>
  </section>
</template>

<style scoped>
.say {
  padding: 14px 26px 20px 24px;
  font-size: 17.5px;
  line-height: 1.72;
  overflow-y: auto;
}
.say p {
  margin-bottom: 12px;
}
.sub {
  display: flex;
  gap: 12px;
  align-items: baseline;
  flex-wrap: wrap;
  margin-bottom: 12px;
  font-size: 14px;
}
/* A sentence ends where its last word stands. */
.end {
  white-space: nowrap;
}
.end > * {
  white-space: normal;
}
.say :deep(.u) {
  border-bottom: 2px solid var(--belt-done) !important;
  font-weight: 600;
  padding: 0 1px !important;
  color: var(--leather-2) !important;
  display: inline;
  line-height: 1.35;
}
.say :deep(.u.soft) {
  font-weight: 400;
}
.say :deep(.u:disabled) {
  border-bottom-color: transparent !important;
  color: var(--ink) !important;
  cursor: default;
}
.say :deep(.u.on),
.say :deep(.u:hover:not(:disabled)) {
  background: var(--leather-soft) !important;
  border-radius: 4px 4px 0 0;
}
.say :deep(.u.bad) {
  border-bottom-style: dashed !important;
}
.say :deep(.u-select) {
  font-size: 17.5px;
  font-weight: 600;
  color: var(--leather-2);
  border: 0;
  border-bottom: 2px solid var(--belt-done);
  border-radius: 0;
  padding: 0;
  background: none;
  field-sizing: content;
}
.say :deep(.u-select option) {
  font-size: 15px;
  background: var(--sheet);
}
.say :deep(.pop) {
  background: var(--sheet);
  border: 1px solid var(--thread);
  border-radius: 8px;
  box-shadow: 0 6px 22px rgba(42, 35, 49, 0.12);
  padding: 12px 14px;
  font-size: 14.5px;
  line-height: 1.45;
  margin: 2px 0 14px;
}
.say :deep(.pop .example) {
  margin: 9px 0 0;
}
.say :deep(.pop .example strong) {
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
</style>
