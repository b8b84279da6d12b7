<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import type { Of } from '@/api/client'
import { plainKey, useKeys } from '@/keys'
import { tellProblem } from '@/tell'
import PackingMember from './PackingMember.vue'
import PackingPart from './PackingPart.vue'
import type { PartState } from './part'
import { useClass } from '@/class/theClass'
import type { Member } from '@/handout/together'

/** A packing list with what is ticked in it, those of other classes packed with it, and packing at the foot. */
const props = defineProps<{
  list: Of<'PackingList'>
  /** What each student gets of it. */
  main: 'copy' | 'satchel'
  /** All get one and the same. */
  one?: boolean
  /** It was packed before. */
  packed: boolean
  ready: boolean
  /** What most students can do with what they get. */
  usual?: string
  members?: Member[]
  /** Keeps what is still typed; answers whether it can be packed. */
  before: () => Promise<boolean>
  /** Packs: of the class, and by class of the others. */
  send: (body: Of<'Pack'>, others: { class: string; pack: Of<'Pack'> }[]) => Promise<unknown>
  refresh: () => Promise<unknown>
}>()
defineEmits<{
  out: [row: string, why: 'unticked' | 'sits-out']
  in: [row: string]
  level: [row: string, level: string]
}>()
const { classId, mayPack } = useClass()
const { t } = useI18n()
const router = useRouter()
const own = ref<PartState>()
const other = ref<Record<string, PartState>>({})
const others = computed(() => (props.members ?? []).filter((m) => other.value[m.class]))
const waiting = computed(() => others.value.length < (props.members?.length ?? 0))
const all = computed(() => [own.value, ...others.value.map((m) => other.value[m.class])].filter((s) => !!s))
const sum = (of: (s: PartState) => number) => all.value.reduce((n, s) => n + of(s), 0)
const things = computed(() => sum((s) => s.things))
const label = computed(() => {
  const plain = all.value.every((s) => s.plain)
  const [key, n] = plain
    ? [props.one ? 'handout.pack-one' : props.main === 'copy' ? 'handout.pack' : 'room.pack', sum((s) => s.made)]
    : ['handout.pack-rest', things.value]
  return t(key, { n }, n)
})
const seconds = computed(() =>
  [props.list, ...others.value.map((m) => m.hand.h.value!.list)].reduce((n, l) => n + l.seconds, 0),
)
const busy = ref(false)
async function pack() {
  if (!props.ready || !things.value || busy.value || !mayPack.value || waiting.value) return
  busy.value = true
  try {
    if (!(await props.before())) return
    await props.send(
      own.value!.body,
      others.value.map((m) => ({ class: m.class, pack: other.value[m.class].body })),
    )
    void router.push({ name: 'register', params: { classId: classId.value } })
  } catch (e) {
    tellProblem(e)
    await Promise.all([props.refresh(), ...others.value.map((m) => m.hand.refresh())])
  } finally {
    busy.value = false
  }
}
useKeys((e) => {
  if (e.key === 'p' && plainKey(e)) void pack()
})
</script>

<template>
  <section class="side">
    <slot name="instead">
      <PackingPart
        :class-id="classId"
        :list="list"
        :main="main"
        :one="one"
        :packed="packed"
        :may-pack="mayPack"
        :usual="usual"
        :refresh="refresh"
        @state="(s) => (own = s)"
        @out="(row, why) => $emit('out', row, why)"
        @in="(row) => $emit('in', row)"
        @level="(row, to) => $emit('level', row, to)"
      />
      <div v-if="members?.length" class="members">
        <PackingMember
          v-for="m in members"
          :key="m.class"
          :member="m"
          :one="!!one"
          @state="(s) => (other = { ...other, [m.class]: s })"
        />
      </div>
    </slot>
    <div class="foot">
      <Button
        type="primary"
        :disabled="!ready || !things || !mayPack || waiting"
        :loading="busy"
        data-act="pack"
        @click="pack"
        >{{ label }}</Button
      >
      <slot name="acts" />
      <span class="grow" />
      <span v-if="!$slots.instead" class="quiet">{{
        things ? t('list.seconds', { n: Math.max(1, Math.ceil(seconds)) }) : t('list.nothing')
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
.members {
  max-height: 55%;
  overflow-y: auto;
  margin: 0 -24px;
  padding: 0 24px;
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
/* In one column with what it is about, and its act always in reach. */
@media (max-width: 1000px) {
  .side {
    display: contents;
  }
  .side > :deep(*:not(.foot)) {
    padding: 14px 16px 0;
    background: var(--sheet);
  }
  .members {
    max-height: none;
    margin: 0;
  }
  .foot {
    position: sticky;
    bottom: 0;
    z-index: 3;
    background: var(--sheet);
    margin: 0;
    padding: 10px 16px;
  }
}
@media print {
  .side {
    display: block;
    border: 0;
    break-before: page;
  }
  .foot {
    display: none;
  }
}
</style>
