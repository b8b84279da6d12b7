<script setup lang="ts">
import { Button, Segmented } from 'ant-design-vue'
import { computed, nextTick, ref, useTemplateRef } from 'vue'
import { useI18n } from 'vue-i18n'
import HeadActs from '@/class/HeadActs.vue'
import { api, data, type Of } from '@/api/client'
import { sentence, tellProblem } from '@/tell'
import DraftChanges from './DraftChanges.vue'
import DraftFindings from './DraftFindings.vue'
import DraftSettings from './DraftSettings.vue'
import DraftTable from './DraftTable.vue'

/** A list that waits to be accepted: what was recognised, every doubt in its place, corrections in the table itself. */
const props = defineProps<{ classId: string; draft: Of<'Draft'> }>()
const emit = defineEmits<{ changed: [Of<'Draft'>]; accepted: [Of<'Accepted'>]; other: []; drop: []; stale: [] }>()
const { t } = useI18n()
const busy = ref(false)
const problem = ref('')
const path = { path: { classId: props.classId } }
const table = useTemplateRef<{ show(row: number, field: number): Promise<void> }>('table')

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
const errors = computed(() => props.draft.findings.filter((f) => f.severity === 'error'))
const warnings = computed(() =>
  props.draft.findings.filter(
    (f, i, all) =>
      f.severity === 'warning' &&
      !(f.code === 'same-name' && all.findIndex((g) => g.code === 'same-name' && g.args.rows === f.args.rows) !== i),
  ),
)
// Rows that were passed over for what they look like, or by the teacher: each says why, and can be taken in.
const out = computed(() =>
  props.draft.findings.filter((f) => ['row-left-out', 'heading-again', 'total-row'].includes(f.code)),
)
const undecided = computed(() => props.draft.groups.filter((g) => !g.target).length)
const noAddresses = computed(() => errors.value.some((f) => f.code === 'no-address-column'))
const columnsRead = computed(() => props.draft.columns.filter((c) => c.note !== 'no-room').length)
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
async function go(f: Of<'Finding'>) {
  look.value = 'list'
  await nextTick()
  await table.value?.show(f.row, f.field)
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
    <HeadActs
      ><Button @click="emit('other')">{{ t('draft.other') }}</Button></HeadActs
    >
    <section class="left">
      <p class="lead">
        {{ t('draft.rows-n', { n: draft.counts.rows }, draft.counts.rows) }},
        {{ t('draft.columns-n', { n: columnsRead }, columnsRead) }}.
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
      <DraftTable v-else ref="table" :draft="draft" @change="(c) => change(...c)" />
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
    <aside v-show="!well" class="panel" :aria-label="t('draft.doubts')">
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
      <div v-if="noNames" class="none">
        <strong>{{ t('draft.no-names') }}</strong>
        <p>{{ t('draft.no-names-text') }}</p>
      </div>
      <DraftFindings
        :draft="draft"
        :errors="errors"
        :warnings="warnings"
        :out="out"
        @change="(c) => change(...c)"
        @go="go"
      />
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
.foot {
  border-top: 1px solid var(--thread);
  padding: 12px 24px 14px 0;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 12px;
  font-size: 14px;
}
.panel {
  border-left: 1px solid var(--thread);
  background: var(--sheet);
  margin-top: 10px;
  padding: 16px 20px;
  overflow-y: auto;
  font-size: 14.5px;
}
@media (max-width: 1000px) {
  .work {
    grid-template-columns: minmax(0, 1fr);
    overflow-y: auto;
  }
}
.none strong {
  color: var(--brick);
  display: block;
}
</style>
