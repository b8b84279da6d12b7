<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useReasons } from '@/reasons'
import { useClass } from '@/class/theClass'

/** What is in one folder of the room as it should be, seen with somebody's eyes; folders open into trees of their own. */
const props = defineProps<{ eyes: string; under?: string; digest: string }>()
const { classId } = useClass()
const { t } = useI18n()
const { reasonText } = useReasons()
const open = ref<Set<string>>(new Set())
const from = ref(0)
const before = ref<Of<'Node'>[]>([]) // of pages that were looked at
const { data: tree } = useQuery({
  queryKey: computed(() => keys.tree(classId.value, props.eyes, props.under ?? '', from.value, props.digest)),
  queryFn: () =>
    data(
      api.GET('/classes/{classId}/room/tree', {
        params: {
          path: { classId: classId.value },
          query: { eyes: props.eyes, under: props.under || undefined, from: from.value },
        },
      }),
    ),
  placeholderData: (old) => old,
})
watch(
  () => [props.eyes, props.digest],
  () => {
    from.value = 0
    before.value = []
  },
)
watch(
  () => props.eyes,
  () => (open.value = new Set()),
)
const nodes = computed(() => [...before.value, ...(tree.value?.nodes ?? [])])
// The class's folder is open from the start, and what holds little.
const few = 8
const isOpen = (n: Of<'Node'>) =>
  open.value.has(n.key) !== (n.purpose === 'class' || (props.eyes !== 'staff' && n.inside > 0 && n.inside <= few))
function turn(n: Of<'Node'>) {
  const next = new Set(open.value)
  if (!next.delete(n.key)) next.add(n.key)
  open.value = next
}
function more() {
  before.value = nodes.value
  from.value = before.value.length
}
const seenByStaff = computed(() => props.eyes === 'staff' || props.eyes === 'assistant')
/** Who may do what, in plain words. */
function may(n: Of<'Node'>): string {
  const level = t(`tree.level-${n.given}`)
  if (!seenByStaff.value) {
    const mine = t(`tree.you-${n.level}`)
    return n.why === 'above' ? `${mine} ${t('tree.as-above')}` : mine
  }
  if (n.purpose === 'class') return t('tree.staff')
  if (n.handIn && n.row) return t('tree.hands-in', { name: n.student })
  if (n.handIn) return t('tree.hand-in')
  if (n.row && n.people && n.why !== 'above') return t('tree.student', { name: n.student, level })
  if (n.row && n.people) return t('tree.student', { name: n.student, level })
  if (n.team) return t('tree.team', { n: n.people, level }, n.people)
  if (n.for === 'class') return t('tree.class', { level })
  if (n.for === 'team') return t(n.inside ? 'tree.holds-teams' : 'tree.no-teams')
  if (n.purpose === 'cloakroom' || n.for === 'student') return n.row ? '' : t('tree.holds-students')
  if (n.for === 'staff') return t('tree.staff-only')
  return ''
}
defineExpose({ tree })
</script>

<template>
  <ul class="tree" :data-tree="under ? undefined : seenByStaff ? eyes : 'student'">
    <li v-for="n in nodes" :key="n.key" :data-node="n.purpose" :data-state="n.state">
      <div class="line">
        <button
          v-if="n.inside"
          class="plain fold"
          :aria-expanded="isOpen(n)"
          :aria-label="t('tree.open', { name: n.name })"
          @click="turn(n)"
        >
          <span class="tip" :class="{ down: isOpen(n) }" />
        </button>
        <span v-else class="fold" />
        <span class="name" :class="{ display: n.purpose === 'class', own: n.kind === 'file' }"
          ><template v-if="n.place && !under">{{ n.place }} › </template><bdi>{{ n.name }}</bdi></span
        >
        <span v-if="n.inside && !isOpen(n)" class="faint n">{{ n.inside }}</span>
        <span class="may">{{ may(n) }}</span>
        <span
          v-if="n.state !== 'there' && seenByStaff"
          class="state"
          :class="n.state"
          :title="n.note ? reasonText(n.note) : ''"
          >{{ t(`tree.state-${n.state}`) }}</span
        >
        <span v-if="n.apart || n.altered" class="state" :title="t(`naming.${n.apart || n.altered}`)">{{
          t(n.apart ? 'tree.apart' : 'tree.altered')
        }}</span>
      </div>
      <RoomTree v-if="n.inside && isOpen(n)" :eyes="eyes" :under="n.key" :digest="digest" />
    </li>
    <li v-if="tree?.more" class="rest">
      <button class="link" @click="more">{{ t('room.more', { n: tree.more }) }}</button>
    </li>
    <li v-if="tree && !under && seenByStaff" class="rest faint" data-counts>
      {{
        t('tree.counts', {
          folders: t('tree.folders', { n: tree.folders }, tree.folders),
          files: t('tree.files', { n: tree.files }, tree.files),
          grants: t('tree.grants', { n: tree.grants }, tree.grants),
        })
      }}
    </li>
    <li v-if="tree && !nodes.length && !under" class="rest quiet">{{ t('tree.nothing') }}</li>
  </ul>
</template>

<style scoped>
.tree {
  list-style: none;
  margin: 0;
  padding: 0;
}
.tree .tree {
  margin-left: 8px;
  border-left: 2px solid var(--belt-done);
  padding-left: 10px;
}
.line {
  display: flex;
  align-items: baseline;
  gap: 7px;
  padding: 2px 0;
}
.fold {
  width: 16px;
  flex: none;
  align-self: center;
  display: inline-grid;
  place-items: center;
  height: 20px;
}
.tip {
  border: 4px solid transparent;
  border-left: 6px solid var(--leather);
  margin-left: 3px;
  transition: transform 0.12s;
}
.tip.down {
  transform: rotate(90deg);
  transform-origin: 30% 50%;
}
@media (prefers-reduced-motion: reduce) {
  .tip {
    transition: none;
  }
}
.name {
  font-weight: 600;
  overflow-wrap: anywhere;
}
.name.display {
  font-size: 17px;
}
.name.own {
  font-weight: 400;
  font-style: italic;
}
.n {
  font-size: 13px;
}
.may {
  color: var(--ink-2);
  font-size: 14px;
  flex: 1;
  min-width: 90px;
}
.state {
  font-size: 12.5px;
  color: var(--brass-text);
  white-space: nowrap;
}
.state.new {
  color: var(--moss);
}
.state.fix {
  color: var(--brick);
}
.rest {
  font-size: 14px;
  padding: 3px 0 3px 23px;
}
</style>
