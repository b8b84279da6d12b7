<script setup lang="ts">
import { Button, Checkbox, Input } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { aboutAddress, useReasons } from '@/reasons'
import { plainName } from '@/parts/plainName'
import TagMark from '@/parts/TagMark.vue'

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
  letBe: [key: string, be: boolean]
  former: [row: string, along: boolean]
}>()
const { t } = useI18n()
const { reasonText } = useReasons()

const typed = ref<Record<string, string>>({})
const addressOf = (l: Of<'Line'>) => typed.value[l.row] ?? l.reason?.args?.suggestion ?? ''

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
        (l.section === 'left-out' && (l.reason?.code !== 'let-be' || l.remedies.length > 0)) ||
        (l.section === 'needs-fixing' && !follows(l)) ||
        (all.value && l.section === 'to-pack')),
  ),
)
const all = ref(false) // also what isn't a student's main thing
const places = computed(() => props.list.lines.filter((l) => l.section === 'to-pack' && l.purpose !== props.main))
const whose = (l: Of<'Line'>) =>
  l.student ||
  (l.people !== undefined
    ? t('list.people', { n: l.people }, l.people)
    : l.purpose === 'account'
      ? ''
      : t(`purpose.${l.purpose}`))
const chosen = (l: Of<'Line'>) => props.remedies?.[l.key]
// Where none of the students' own things is to be packed, the others are what there is to pack.
function count(s: string) {
  if (s === 'to-change') return changes.value.length
  if (s !== 'to-pack') return lines.value.filter((l) => l.section === s).length
  return props.list.lines.filter((l) => l.section === s && l.purpose === props.main).length || places.value.length
}
const made = computed(() => lines.value.filter((l) => l.section === 'to-pack' && l.act === 'make').length)
const sections = computed(() =>
  ['to-pack', 'to-change', 'already-there', 'left-out', 'needs-fixing'].filter((s) => s !== 'to-change' || count(s)),
)
const also = computed(() => {
  const by = new Map<string, number>()
  for (const l of places.value) by.set(l.purpose, (by.get(l.purpose) ?? 0) + 1)
  return [...by].map(([purpose, n]) => t(`also.${purpose}`, { n }, n)).join(', ')
})
const tag = (l: Of<'Line'>) =>
  l.section === 'left-out'
    ? 'out'
    : l.section === 'needs-fixing'
      ? 'stuck'
      : l.section === 'already-there'
        ? 'shared'
        : l.act === 'share'
          ? 'not-shared'
          : 'not-made'
</script>

<template>
  <div class="list">
    <div class="head">
      <h2>{{ t('list.title') }}</h2>
      <span class="quiet">{{ t('list.exactly') }}</span>
    </div>
    <div class="counts">
      <div v-for="s in sections" :key="s" class="n" :class="{ [s]: count(s) }" :data-count="s">
        <b class="display">{{ count(s) }}</b>{{ t(`section.${s}`) }}
      </div>
      <span class="grow" />
      <div v-if="made" class="weight">
        <b class="display">{{ t(`list.things-${unit ?? main}`, { n: made }, made) }}</b>{{
          main === 'copy' ? t('list.weight') : t('list.no-weight')
        }}
      </div>
    </div>
    <p v-if="also" class="also quiet">
      {{ t('list.also', { things: also }) }}
      <button class="link" data-act="all-lines" @click="all = !all">{{ t(all ? 'list.fewer' : 'list.each') }}</button>
    </p>
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
                data-act="let-be"
                @click="emit('letBe', l.wanted, true)"
              >
                {{ t('list.let-be') }}
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
            <td class="x"><TagMark :state="tag(l)" bare /></td>
            <td class="who">
              <bdi>{{ whose(l) }}</bdi>
            </td>
            <template v-if="l.section === 'needs-fixing' && l.reason">
              <td colspan="2" class="why">
                {{ reasonText(l.reason) }}
                <form
                  v-if="mayFix && aboutAddress(l.reason.code)"
                  class="fix"
                  @submit.prevent="emit('fix', l.row, addressOf(l))"
                >
                  <Input
                    size="small"
                    :value="addressOf(l)"
                    :aria-label="t('list.address-of', { name: l.student })"
                    @update:value="(v: string) => (typed[l.row] = v)"
                  />
                  <Button size="small" html-type="submit" :disabled="!addressOf(l).trim()" data-act="fix">{{
                    t(packed ? 'belt.fix' : 'list.correct')
                  }}</Button>
                </form>
                <span v-if="mayFix && l.purpose !== main" class="quiet"> {{ plainName(l.name) }}</span>
                <span v-if="mayFix && chosen(l)" class="chosen" data-chosen
                  >→ {{ t(`remedy.${chosen(l)}`) }}
                  <button class="link" @click="emit('remedy', l.key, '')">{{ t('remedy.undo') }}</button></span
                >
                <template v-else-if="mayFix">
                  <template v-for="r in l.remedies" :key="r">
                    <button
                      v-if="r === 'bring-back' || r === 'make-anew'"
                      class="link remedy"
                      :data-act="r"
                      @click="emit('remedy', l.key, r)"
                    >
                      {{ t(`remedy.${r}`) }}
                    </button>
                    <button
                      v-else-if="r === 'bring-along' || r === 'make-new'"
                      class="link remedy"
                      :data-act="r"
                      @click="emit('former', l.row, r === 'bring-along')"
                    >
                      {{ t(`remedy.${r}`) }}
                    </button>
                    <button
                      v-else-if="r === 'leave-out' && l.thing && !aboutAddress(l.reason.code)"
                      class="link remedy"
                      data-act="let-be"
                      @click="emit('letBe', l.wanted, true)"
                    >
                      {{ t('remedy.leave-out') }}
                    </button>
                  </template>
                </template>
                <p v-if="problems?.[l.row]" role="alert">{{ problems[l.row] }}</p>
                <template v-if="mayFix && l.reason.code === 'account-other-name'">
                  ·
                  <button class="link" data-act="confirm" @click="emit('confirm', l.row)">
                    {{ t('grid.same-student') }}
                  </button>
                </template>
              </td>
            </template>
            <template v-else-if="l.section === 'left-out' && l.reason">
              <td class="why">{{ reasonText(l.reason) }}</td>
              <td class="level">
                <button
                  v-if="mayFix && l.reason.code === 'let-be'"
                  class="link"
                  @click="emit('letBe', l.wanted, false)"
                >
                  {{ t('list.ask-again') }}
                </button>
                <button v-else-if="mayFix && l.reason.code !== 'no-team'" class="link" @click="emit('in', l.row)">
                  {{ t('list.take-in') }}
                </button>
              </td>
            </template>
            <template v-else>
              <td class="name">
                <bdi>{{ plainName(l.name) }}</bdi><span v-if="l.apart" class="apart" :title="t(`naming.${l.apart}`)">
                  ≠</span
                ><span v-if="l.altered" class="apart" :title="t(`naming.${l.altered}`)"> ✎</span>
                <span v-if="l.section === 'already-there' && l.reason" class="quiet">
                  · {{ reasonText(l.reason) }}</span
                >
                <span v-else-if="l.act === 'share'" class="quiet"> · {{ t('list.share-only') }}</span>
              </td>
              <td class="level">
                <button
                  v-if="mayFix && l.section === 'to-pack' && skipped?.includes(l.key)"
                  class="link"
                  data-act="unskip"
                  @click="emit('skip', l.key, false)"
                >
                  {{ t('list.now-after-all') }}
                </button>
                <span v-else-if="mayFix && l.section === 'to-pack'" class="leave">
                  <button class="link" data-act="skip" @click="emit('skip', l.key, true)">
                    {{ t('list.not-now') }}
                  </button>
                  <template v-if="main === 'copy' && l.purpose === 'copy'">
                    ·
                    <button class="link" @click="emit('out', l.row, 'unticked')">{{ t('list.leave-out') }}</button>
                    ·
                    <button class="link" data-act="sits-out" @click="emit('out', l.row, 'sits-out')">
                      {{ t('list.sits-out') }}
                    </button>
                  </template>
                </span>
                <span v-if="!skipped?.includes(l.key)">{{ t(`level.${l.level || 'edit'}`) }}</span>
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
.head {
  display: flex;
  align-items: baseline;
  gap: 14px;
}
.head span {
  font-size: 14px;
}
.counts {
  display: flex;
  gap: 18px;
  margin: 8px 0;
  font-size: 14px;
  color: var(--ink-2);
}
.counts b {
  font-size: 21px;
  line-height: 1.05;
  display: block;
  color: var(--ink-2);
}
.to-pack b {
  color: var(--moss);
}
.needs-fixing b {
  color: var(--brick);
}
.weight {
  text-align: right;
}
.also {
  font-size: 13.5px;
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
  width: 62px;
  padding-left: 8px;
}
.who {
  width: 27%;
  font-weight: 600;
}
.level {
  width: 96px;
  text-align: right;
  color: var(--ink-2);
  padding-right: 2px;
}
tr.needs-fixing td {
  background: color-mix(in srgb, var(--brick-soft) 45%, var(--sheet));
}
tr.needs-fixing .why {
  white-space: normal;
  color: var(--brick);
  font-weight: 600;
}
.remedy,
.chosen {
  margin-left: 10px;
  white-space: nowrap;
}
.chosen {
  color: var(--moss);
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
.to-change b {
  color: var(--brass-text);
}
tr.left-out td {
  color: var(--ink-3);
  font-weight: 400;
}
.apart {
  color: var(--brass-text);
  font-weight: 700;
}
.fix {
  display: flex;
  gap: 6px;
  margin: 2px 0 5px;
}
.fix .ant-input {
  flex: 1;
  min-width: 0;
  max-width: 300px;
}
.level {
  position: relative;
  overflow: visible;
}
.leave {
  display: none;
  position: absolute;
  top: 0;
  right: 0;
  height: 25px;
  line-height: 25px;
  padding: 0 2px 0 12px;
  background: var(--sheet);
}
tr:hover .leave,
tr:focus-within .leave {
  display: block;
}
</style>
