<script setup lang="ts">
import { Checkbox } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { aboutAddress, useReasons } from '@/reasons'
import TagMark from '@/parts/TagMark.vue'
import LineChoices from './LineChoices.vue'
import LineName from './LineName.vue'
import LineLevel from './LineLevel.vue'
import MendLine from './MendLine.vue'
import PackingCounts from './PackingCounts.vue'
import { later, tagOf, whoseLine } from './line'

/** The packing list: exactly what will happen, line by line. */
const props = defineProps<{
  list: Of<'PackingList'>
  main: string
  /** What the main things are called, where that isn't what they are for. */
  unit?: string
  mayFix: boolean
  ticked?: string[]
  /** It was packed before: what is mended here is packed at once. */
  packed?: boolean
  /** What was refused, by student. */
  problems?: Record<string, string>
  /** Lines to pack that are left for another time. */
  skipped?: string[]
  /** What most students can do with what they get; of some it can be another. */
  usual?: string
  /** What is done about things in the bin or gone, by their keys. */
  remedies?: Record<string, string>
}>()
const emit = defineEmits<{
  fix: [row: string, address: string]
  out: [row: string, why: 'unticked' | 'sits-out']
  in: [row: string]
  tick: [key: string, on: boolean]
  confirm: [row: string]
  skip: [key: string, on: boolean]
  remedy: [key: string, remedy: string]
  leaveAsIs: [key: string, be: boolean]
  former: [row: string, along: boolean]
  level: [row: string, level: string]
}>()
const { t } = useI18n()
const { reasonText } = useReasons()

// The student's own things, one line each; what else is made for them is counted above.
const most = ref(300) // a very large class is shown in parts
const changes = computed(() => props.list.lines.filter((l) => l.section === 'to-change'))
// What is mended with another line isn't a line of its own.
const follows = (l: Of<'Line'>) =>
  l.reason?.code === 'parent-in-bin' || l.reason?.code === 'parent-needs-fixing' || aboutAddress(l.reason?.code)
const lines = computed(() =>
  props.list.lines.filter(
    (l) =>
      l.section !== 'to-change' &&
      (l.purpose === props.main ||
        (l.section === 'left-out' &&
          l.reason?.code !== 'handed-over' &&
          (l.reason?.code !== 'left-as-is' || l.remedies.length > 0)) ||
        (l.section === 'needs-fixing' && !follows(l)) ||
        (all.value && l.section === 'to-pack')),
  ),
)
const all = ref(false) // also what isn't a student's main thing
const places = computed(() => props.list.lines.filter((l) => l.section === 'to-pack' && l.purpose !== props.main))
const whose = (l: Of<'Line'>) => whoseLine(l, t)
// Where none of the students' own things is to be packed, the others are what there is to pack.
function count(s: string) {
  if (s === 'to-change') return changes.value.length
  if (s !== 'to-pack') return lines.value.filter((l) => l.section === s).length
  return props.list.lines.filter((l) => l.section === s && l.purpose === props.main).length || places.value.length
}
const made = computed(() => lines.value.filter((l) => l.section === 'to-pack' && l.act === 'make').length)
const sections = ['to-pack', 'to-change', 'already-there', 'left-out', 'needs-fixing']
const counts = computed(() =>
  [
    ...sections.map((section) => ({ section, n: count(section) })),
    { section: 'waits', n: lines.value.filter((l) => l.purpose === props.main && later(l)).length },
  ].filter((c) => !['to-change', 'waits'].includes(c.section) || c.n),
)
</script>

<template>
  <div class="list">
    <PackingCounts v-model:all="all" :counts="counts" :made="made" :main="main" :unit="unit ?? main" :places="places" />
    <div class="scroll">
      <table>
        <tbody>
          <tr v-for="l in changes" :key="l.key" class="to-change" data-section="to-change" :data-purpose="l.purpose">
            <td class="x">
              <Checkbox
                :checked="ticked?.includes(l.key)"
                :disabled="!mayFix"
                :aria-label="whose(l)"
                @update:checked="(on: boolean) => emit('tick', l.key, on)"
              />
            </td>
            <td class="who">
              <bdi>{{ whose(l) }}</bdi>
            </td>
            <td colspan="2" class="change">
              <span v-if="l.student" class="quiet">{{ t(`purpose.${l.purpose}`) }}: </span
              >{{ l.reason ? reasonText(l.reason) : '' }}
              <button
                v-if="mayFix && l.reason?.code === 'put-back'"
                class="link"
                data-act="leave-as-is"
                @click="emit('leaveAsIs', l.wanted, true)"
              >
                {{ t('list.leave-as-is') }}
              </button>
            </td>
          </tr>
          <tr
            v-for="l in lines.slice(0, most)"
            :key="l.key + l.row"
            :class="[l.section, { skipped: skipped?.includes(l.key) }]"
            :data-section="l.section"
            :data-purpose="l.purpose"
          >
            <td class="x"><TagMark :state="tagOf(l)" bare /></td>
            <td class="who">
              <bdi>{{ whose(l) }}</bdi>
            </td>
            <template v-if="l.section === 'needs-fixing' && l.reason">
              <td colspan="2" class="why">
                <MendLine
                  :line="l"
                  :main="main"
                  :may-fix="mayFix"
                  :packed="packed"
                  :chosen="remedies?.[l.key]"
                  :problem="problems?.[l.row]"
                  @fix="(address) => emit('fix', l.row, address)"
                  @remedy="(r) => emit('remedy', l.key, r)"
                  @former="(along) => emit('former', l.row, along)"
                  @leave-as-is="emit('leaveAsIs', l.wanted, true)"
                  @confirm="emit('confirm', l.row)"
                />
              </td>
            </template>
            <template v-else-if="l.section === 'left-out' && l.reason">
              <td class="why">{{ reasonText(l.reason) }}</td>
              <td class="level">
                <button
                  v-if="mayFix && l.reason.code === 'left-as-is'"
                  class="link"
                  @click="emit('leaveAsIs', l.wanted, false)"
                >
                  {{ t('list.ask-again') }}
                </button>
                <button
                  v-else-if="mayFix && !['no-team', 'handed-over'].includes(l.reason.code)"
                  class="link"
                  @click="emit('in', l.row)"
                >
                  {{ t('list.take-in') }}
                </button>
              </td>
            </template>
            <template v-else>
              <td class="name">
                <LineName
                  :line="l"
                  :main="main"
                  :may-fix="mayFix"
                  :problem="problems?.[l.row]"
                  @fix="(address) => emit('fix', l.row, address)"
                />
              </td>
              <td class="level">
                <LineLevel
                  v-if="!skipped?.includes(l.key)"
                  :level="l.level || 'edit'"
                  :usual="l.purpose === main && l.row ? usual : undefined"
                  :name="whose(l)"
                  :may-change="mayFix"
                  @level="(to) => emit('level', l.row, to)"
                />
                <button
                  v-if="mayFix && l.section === 'to-pack' && skipped?.includes(l.key)"
                  class="link"
                  data-act="unskip"
                  @click="emit('skip', l.key, false)"
                >
                  {{ t('list.now-after-all') }}
                </button>
                <LineChoices
                  v-else-if="mayFix && l.section === 'to-pack'"
                  :name="whose(l)"
                  :may-go="main === 'copy' && l.purpose === 'copy'"
                  @skip="emit('skip', l.key, true)"
                  @out="(how) => emit('out', l.row, how)"
                />
              </td>
            </template>
          </tr>
        </tbody>
      </table>
      <button v-if="lines.length > most" class="link more" @click="most += 300">
        {{ t('list.more', { n: lines.length - most }) }}
      </button>
    </div>
  </div>
</template>

<style scoped>
.list {
  display: flex;
  flex-direction: column;
  min-height: 0;
  flex: 1;
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
  table-layout: fixed;
}
td {
  height: 26px;
  border-bottom: 1px solid var(--thread-2);
  padding: 0 8px 0 0;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.x {
  text-overflow: clip;
  width: 62px;
  padding-left: 8px;
}
.who {
  width: 27%;
  font-weight: 600;
}
.level {
  width: 88px;
  text-align: right;
  color: var(--ink-2);
  padding-right: 2px;
  position: relative;
  overflow: visible;
}
tr.needs-fixing td {
  background: color-mix(in srgb, var(--brick-soft) 45%, var(--sheet));
}
tr.needs-fixing .why {
  white-space: normal;
  color: var(--brick);
  font-weight: 600;
}
tr.skipped td {
  color: var(--ink-3);
  text-decoration: line-through;
}
tr.skipped .level {
  text-decoration: none;
}
.more {
  padding: 8px;
}
.change {
  white-space: normal;
}
tr.to-change td {
  background: var(--brass-soft);
}
tr.left-out td {
  color: var(--ink-3);
  font-weight: 400;
}
.level:has([data-act='other']) {
  padding-right: 28px;
}
@media (max-width: 1000px) {
  .scroll {
    flex: none;
    overflow: visible;
  }
}
@media (max-width: 560px) {
  .x {
    width: 48px;
    padding-left: 0;
  }
  .who {
    width: 38%;
  }
}
</style>
