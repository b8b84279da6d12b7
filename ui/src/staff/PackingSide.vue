<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { api, type Of } from '@/api/client'
import { plainKey, useKeys } from '@/keys'
import PackingLines from '@/parts/PackingLines.vue'
import { tellProblem } from '@/tell'
import { useMending } from './mending'
import { useClass } from './theClass'

/** A packing list with what is ticked in it, and its packing at the foot. */
const props = defineProps<{
  list: Of<'PackingList'>
  /** What each student gets of it. */
  main: 'copy' | 'satchel'
  /** All get one and the same. */
  one?: boolean
  /** It was packed before. */
  packed: boolean
  ready: boolean
  /** Keeps what is still typed; answers whether it can be packed. */
  before: () => Promise<boolean>
  send: (body: Of<'Pack'>) => Promise<unknown>
  refresh: () => Promise<unknown>
}>()
defineEmits<{ out: [row: string, why: 'unticked' | 'sits-out']; in: [row: string] }>()
const { classId, mayPack } = useClass()
const { t } = useI18n()
const router = useRouter()
const toPack = computed(() => props.list.counts['to-pack'] ?? 0)
const made = computed(
  () => props.list.lines.filter((l) => l.purpose === props.main && l.act === 'make' && l.section === 'to-pack').length,
)
const skippedMade = computed(
  () => props.list.lines.filter((l) => l.purpose === props.main && skipped.value.includes(l.key)).length,
)
// Lines to change are packed as they are ticked; each can be left for later.
const said = ref<Record<string, boolean>>({})
const ticked = computed(() =>
  props.list.lines.filter((l) => l.section === 'to-change' && (said.value[l.key] ?? l.ticked)).map((l) => l.key),
)
// Lines to pack can be left for another time, and what is in the bin or gone is asked about.
const skip = ref<string[]>([])
const skipped = computed(() => skip.value.filter((k) => props.list.lines.some((l) => l.key === k)))
const remedies = ref<Record<string, string>>({})
const mended = computed(() =>
  props.list.lines.filter((l) => l.section === 'needs-fixing' && remedies.value[l.key]).map((l) => l.key),
)
const things = computed(() => toPack.value - skipped.value.length + ticked.value.length + mended.value.length)
async function letBe(key: string, be: boolean) {
  try {
    await api.POST('/classes/{classId}/room/let-be', {
      params: { path: { classId: classId.value } },
      body: { key, be },
    })
  } catch (e) {
    tellProblem(e)
  }
  await props.refresh()
}
async function former(rowId: string, along: boolean) {
  try {
    const path = { classId: classId.value, rowId }
    await api.POST('/classes/{classId}/rows/{rowId}/former', { params: { path }, body: { along } })
  } catch (e) {
    tellProblem(e)
  }
  await props.refresh()
}
const label = computed(() => {
  const now = made.value - skippedMade.value
  const places = props.list.lines.some((l) => l.purpose === 'place' && l.section === 'to-pack' && l.act === 'make')
  // What is there already is shared or pointed to, not copied.
  const more = props.list.lines.some((l) => l.purpose === props.main && l.section === 'to-pack' && l.act !== 'make')
  const plain = (now && !places && !more && !ticked.value.length && !mended.value.length) || !things.value
  const [key, n] = plain
    ? [props.one ? 'handout.pack-one' : props.main === 'copy' ? 'handout.pack' : 'room.pack', now]
    : ['handout.pack-rest', things.value]
  return t(key, { n }, n)
})
const busy = ref(false)
async function pack() {
  if (!props.ready || !things.value || busy.value || !mayPack.value) return
  busy.value = true
  try {
    if (!(await props.before())) return
    await props.send({
      seen: props.list.digest,
      changes: ticked.value,
      skip: skipped.value,
      back: mended.value.filter((k) => remedies.value[k] === 'bring-back'),
      anew: mended.value.filter((k) => remedies.value[k] === 'make-anew'),
    })
    void router.push({ name: 'register', params: { classId: classId.value } })
  } catch (e) {
    tellProblem(e)
    await props.refresh()
  } finally {
    busy.value = false
  }
}
useKeys((e) => {
  if (e.key === 'p' && plainKey(e)) void pack()
})
const { problems, mend } = useMending(classId, props.refresh)
</script>

<template>
  <section class="side">
    <slot name="instead">
      <PackingLines
        :list="list"
        :main="main"
        :unit="one ? 'document' : undefined"
        :may-fix="mayPack"
        :ticked="ticked"
        :problems="problems"
        :packed="packed"
        :skipped="skipped"
        :remedies="remedies"
        @skip="(key, on) => (skip = on ? [...skip, key] : skip.filter((k) => k !== key))"
        @remedy="(key, how) => (remedies = { ...remedies, [key]: how })"
        @let-be="letBe"
        @former="former"
        @tick="(key, on) => (said = { ...said, [key]: on })"
        @fix="(row, address) => mend(row, address, packed)"
        @confirm="(row) => mend(row, null, packed)"
        @out="(row, why) => $emit('out', row, why)"
        @in="(row) => $emit('in', row)"
      />
    </slot>
    <div class="foot">
      <Button type="primary" :disabled="!ready || !things || !mayPack" :loading="busy" data-act="pack" @click="pack">{{
        label
      }}</Button>
      <slot name="acts" />
      <span class="grow" />
      <span v-if="!$slots.instead" class="quiet">{{
        things ? t('list.seconds', { n: Math.max(1, Math.ceil(list.seconds)) }) : t('list.nothing')
      }}</span>
    </div>
  </section>
</template>

<style scoped>
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
  flex-wrap: wrap;
}
.foot > :deep(a),
.foot > .quiet {
  white-space: nowrap;
}
</style>
