<script setup lang="ts">
import { Button, Segmented } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useClass } from '@/class/theClass'
import HeadActs from '@/class/HeadActs.vue'
import { moment } from '@/when'
import DifferenceLines from './DifferenceLines.vue'
import DoorProof from './DoorProof.vue'
import DoorReach from './DoorReach.vue'
import { useDoorCheck } from './doorCheck'
import { useNarrowed } from './narrowed'

/** Who reaches what in the class, compared with who should: proven, or every difference by name. */
const { classId, mayPack, mayLook } = useClass()
const { t } = useI18n()
const { last, earlier, busy, problem, mending, check, mend, leave } = useDoorCheck(classId)
const { only, check: shown, said, given, students } = useNarrowed(classId, last, mayLook)
const view = ref<'differences' | 'student' | 'thing' | 'earlier'>('differences')
const views = computed(() =>
  (mayLook.value
    ? (['differences', 'student', 'thing', 'earlier'] as const)
    : (['differences', 'earlier'] as const)
  ).map((value) => ({ value, label: t(`doors.view-${value}`) })),
)
const ticked = ref(new Set<string>())
watch(last, (c) => (ticked.value = new Set(c?.lines.filter((d) => d.usual).map((d) => d.id))), { immediate: true })
const chosen = computed(() => shown.value?.lines.filter((d) => ticked.value.has(d.id)).map((d) => d.id) ?? [])
function tick(id: string) {
  const next = new Set(ticked.value)
  if (!next.delete(id)) next.add(id)
  ticked.value = next
}
const print = () => window.print()
const file = (format: string) => `/api/classes/${classId.value}/doors/export/${format}`
</script>

<template>
  <div class="check">
    <HeadActs>
      <Button v-if="last" data-act="print-doors" @click="print">{{ t('doors.print') }}</Button>
      <Button :loading="busy || mending" data-act="check-doors" @click="check">{{ t('doors.again') }}</Button>
    </HeadActs>
    <div class="body">
      <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
      <p v-if="!last" class="quiet" role="status">{{ busy ? t('doors.checking') : '' }}</p>
      <DoorProof v-if="last" :check="last" />
      <div v-if="last" class="row no-print">
        <Segmented v-model:value="view" :options="views" />
        <span class="grow" />
        <template v-if="view === 'differences'">
          <span class="quiet">{{ t('log.export') }}</span>
          <a v-for="f in ['csv', 'xlsx', 'ods']" :key="f" :href="file(f)" download>{{ f.toUpperCase() }}</a>
        </template>
        <RouterLink v-if="mayLook" :to="{ name: 'links', params: { classId } }" data-act="links">{{
          t('doors.links')
        }}</RouterLink>
      </div>
      <p v-if="last && view === 'differences' && (last.lines.length || only)" class="only no-print">
        <label
          >{{ t('doors.only') }}
          <select v-model="only" class="pick-one" data-field="only">
            <option value="">{{ t('doors.only-all') }}</option>
            <optgroup v-if="given.length" :label="t('doors.only-handouts')">
              <option v-for="h in given" :key="h.id" :value="`handout ${h.id}`">{{ h.title }}</option>
            </optgroup>
            <optgroup :label="t('doors.only-students')">
              <option v-for="s in students" :key="s.row" :value="`row ${s.row}`">{{ s.name }}</option>
            </optgroup>
          </select></label
        >
        <span v-if="said" class="quiet" role="status" data-said>{{ said }}</span>
      </p>
      <DifferenceLines
        v-if="shown && view === 'differences'"
        :check="shown"
        :may-mend="mayPack"
        :busy="busy || mending"
        :ticked="ticked"
        @tick="tick"
        @leave="leave"
      />
      <DoorReach v-else-if="view === 'student' || view === 'thing'" :key="view" :class-id="classId" :by="view" />
      <table v-else-if="view === 'earlier'" data-table="earlier">
        <tbody>
          <tr v-for="c in earlier" :key="c.at">
            <td class="when">{{ moment(Date.parse(c.at)) }}</td>
            <td :class="{ bad: c.differences }">
              {{ c.differences ? t('doors.count', { n: c.differences }, c.differences) : t('doors.no-differences') }}
            </td>
            <td class="quiet">{{ c.by || t('doors.by-itself') }}</td>
          </tr>
        </tbody>
      </table>
    </div>
    <div v-if="mayPack && view === 'differences' && shown?.lines.some((d) => d.mends)" class="foot no-print">
      <Button
        type="primary"
        :disabled="!chosen.length || busy"
        :loading="mending"
        data-act="mend-doors"
        @click="mend(chosen)"
        >{{ chosen.length ? t('doors.mend', { n: chosen.length }, chosen.length) : t('doors.mend-none') }}</Button
      >
      <span class="quiet help">{{ t('doors.mend-help') }}</span>
      <span class="grow" />
      <span class="quiet nightly">{{ t('doors.nightly') }}</span>
    </div>
  </div>
</template>

<style scoped>
.check {
  display: grid;
  grid-template-rows: minmax(0, 1fr) auto;
  min-height: 0;
}
.body {
  padding: 16px var(--edge) 24px;
  overflow-y: auto;
  min-height: 0;
}
.row {
  display: flex;
  gap: 8px 14px;
  align-items: center;
  flex-wrap: wrap;
  margin: 14px 0 10px;
}
.only {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  margin: 0 0 8px;
  font-size: 14px;
}
.only label {
  min-width: 0;
}
.only select {
  max-width: 100%;
}
.foot {
  display: flex;
  gap: 8px 14px;
  align-items: center;
  flex-wrap: wrap;
  padding: 12px var(--edge);
  border-top: 1px solid var(--thread);
  background: var(--sheet);
  font-size: 14px;
}
table {
  border-collapse: collapse;
  width: 100%;
  font-size: 14.5px;
}
td {
  border-top: 1px solid var(--thread-2);
  padding: 7px 14px 7px 0;
}
.when {
  width: 190px;
}
@media (max-width: 700px) {
  .help,
  .nightly {
    display: none;
  }
}
@media print {
  .check,
  .body {
    display: block;
    overflow: visible;
    padding: 0;
  }
}
</style>
