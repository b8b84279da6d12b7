<script setup lang="ts">
import { Button, Checkbox } from 'ant-design-vue'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'

/** How the list is to be taken: which sheet, which classes, names and addresses. */
const props = defineProps<{ draft: Of<'Draft'> }>()
const emit = defineEmits<{ change: [Of<'DraftChange'>[]] }>()
const { t } = useI18n()
// Parts for which a class could be added, and none is yet.
const proposed = computed(() =>
  groups.value.filter((g) => g.class && ['ask', 'unsure', 'others'].includes(g.why) && g.target !== 'new'),
)
const addAll = () =>
  emit(
    'change',
    proposed.value.map((g) => ({ target: { group: g.key, class: 'new' }, was: '' })),
  )
const full = computed(() => props.draft.columns.some((c) => c.role === 'full'))
// One part alone is for this class without a word, unless it is called as another of theirs.
const groups = computed(() =>
  props.draft.groups.length > 1 || props.draft.groups.some((g) => ['elsewhere', 'said'].includes(g.why))
    ? props.draft.groups
    : [],
)
const lacking = computed(
  () =>
    !!props.draft.derive ||
    props.draft.findings.some((f) => f.code === 'no-address-column' || f.code === 'address-later'),
)
const staff = computed(() =>
  [...new Set(groups.value.filter((g) => g.target === 'new').flatMap((g) => g.staff))].join(', '),
)
const example = (rule: string) =>
  rule
    .replace('[given]', 'nia')
    .replace('[family]', 'fjord')
    .replace('[g]', 'n')
    .replace('[f]', 'f')
    .replace('[number]', '70411') + '@…'
const firstLine = computed(() => props.draft.rows.find((r) => r.cells.some((c) => c.trim()))?.line)
const any = computed(
  () =>
    props.draft.sheets.length > 1 ||
    groups.value.length ||
    props.draft.encodings.length > 1 ||
    full.value ||
    lacking.value ||
    props.draft.severalPeriods ||
    !props.draft.headingRow,
)
defineExpose({ any })
const value = (e: Event) => (e.target as HTMLSelectElement).value
</script>

<template>
  <div v-if="any" class="settings">
    <div v-if="draft.encodings.length > 1" class="line" data-set="encoding">
      {{ t('draft.letters', { example: draft.encodings.find((e) => e.encoding === draft.encoding)?.example ?? '' }) }}
      <Button
        v-for="e in draft.encodings.filter((x) => x.encoding !== draft.encoding)"
        :key="e.encoding"
        size="small"
        @click="emit('change', [{ encoding: e.encoding }])"
        >{{ t('draft.read-as', { example: e.example, instead: e.instead }) }}</Button
      >
    </div>
    <label v-if="draft.sheets.length > 1" class="line"
      >{{ t('draft.sheet') }}
      <select
        class="pick-one"
        :value="draft.sheet"
        data-set="sheet"
        @change="emit('change', [{ sheet: value($event), was: draft.sheet }])"
      >
        <option v-for="s in draft.sheets" :key="s.name" :value="s.name">
          {{ s.hidden ? t('draft.sheet-hidden', { name: s.name }) : s.name }}
        </option>
      </select>
    </label>
    <p v-if="!draft.headingRow && firstLine" class="line">
      {{ t('draft.no-heading') }}
      <Button size="small" data-set="heading" @click="emit('change', [{ heading: firstLine }])">{{
        t('draft.heading-is', { n: firstLine })
      }}</Button>
    </p>
    <template v-if="groups.length">
      <h3>{{ t('draft.groups', { n: groups.length }, groups.length) }}</h3>
      <div v-for="g in groups" :key="g.key" class="group" :data-group="g.class">
        <span
          ><b>{{ g.class || t('draft.no-class') }}</b
          ><template v-if="g.period"> · {{ t('class.period-n', { period: g.period }) }}</template>
          <span class="quiet"> {{ t('class.count', { n: g.students }, g.students) }}</span></span
        >
        <select
          class="pick-one"
          :value="g.target"
          :aria-label="t('draft.goes-to', { class: g.class })"
          @change="emit('change', [{ target: { group: g.key, class: value($event) } }])"
        >
          <option v-if="!g.target" value="" disabled>{{ t('draft.say-which') }}</option>
          <option v-for="c in draft.classes" :key="c.id" :value="c.id">{{ c.code }} · {{ c.name }}</option>
          <option value="new">{{ t('draft.make-class') }}</option>
          <option value="out">{{ t('list.leave-out') }}</option>
        </select>
        <span v-if="g.why !== 'said' && g.why !== 'fits'" class="quiet" :class="{ bad: !g.target }">{{
          t(`draft.why-${g.why}`)
        }}</span>
      </div>
      <Button v-if="proposed.length" size="small" data-act="add-all" @click="addAll">{{
        t('draft.add-all', { n: proposed.length }, proposed.length)
      }}</Button>
      <Checkbox
        v-if="staff"
        :checked="!draft.noStaff"
        @update:checked="(v: boolean) => emit('change', [{ noStaff: !v }])"
        >{{ t('draft.add-staff', { names: staff }) }}</Checkbox
      >
    </template>
    <Checkbox
      v-if="draft.severalPeriods || draft.byPeriod"
      :checked="draft.byPeriod"
      @update:checked="(v: boolean) => emit('change', [{ byPeriod: v }])"
      >{{ t('draft.by-period') }}</Checkbox
    >
    <Checkbox
      v-if="full"
      :checked="draft.familyFirst"
      @update:checked="(v: boolean) => emit('change', [{ familyFirst: v }])"
      >{{ t('draft.family-first') }}</Checkbox
    >
    <label v-if="lacking" class="line"
      >{{ t('draft.derive') }}
      <select
        class="pick-one"
        :value="draft.derive"
        data-set="derive"
        @change="emit('change', [{ derive: value($event), was: draft.derive }])"
      >
        <option value="">{{ t('draft.derive-not') }}</option>
        <option v-for="r in draft.rules" :key="r" :value="r">
          {{ example(r) }}{{ r === draft.rule ? ` – ${t('draft.usual-here')}` : '' }}
        </option>
      </select>
    </label>
  </div>
</template>

<style scoped>
.settings {
  display: grid;
  gap: 8px;
  padding-bottom: 12px;
  border-bottom: 1px solid var(--thread-2);
  margin-bottom: 12px;
}
h3 {
  margin: 4px 0 0;
}
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 8px;
  align-items: baseline;
}
.group {
  display: grid;
  gap: 2px;
}
.settings :deep(.ant-checkbox-wrapper) {
  margin: 0;
  font-size: 14px;
}
</style>
