<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useNewHandout } from './newHandout'
import { ago, past, wall } from '@/when'
import GripMark from './GripMark.vue'
import { useOrder } from './order'
import PlanFile from '@/room/PlanFile.vue'
import HeadActs from '@/class/HeadActs.vue'
import { useClass } from '@/class/theClass'

/** The class's handouts under their headings, in their teacher's order; what is new comes first. */
const { cls, classId, mayPack } = useClass()
const { t } = useI18n()
const router = useRouter()
const path = computed(() => ({ path: { classId: classId.value } }))
const { data: list } = useQuery({
  queryKey: computed(() => keys.handouts(classId.value)),
  queryFn: () => data(api.GET('/classes/{classId}/handouts', { params: path.value })),
})
const { data: headings } = useQuery({
  queryKey: computed(() => keys.handouts(classId.value, 'headings')),
  queryFn: () => data(api.GET('/classes/{classId}/headings', { params: path.value })),
})
const order = useOrder(classId, list, headings)
const naming = ref('') // heading that is being named: its id, or "new"
const called = ref('')
function name(id: string, title: string) {
  naming.value = id
  called.value = title
}
async function named(was: string) {
  const [id, title] = [naming.value, called.value]
  naming.value = '' // Enter, and the field being left after it, are one
  if (!id || !title.trim()) return
  if (!(await order.name(id === 'new' ? '' : id, title, was))) name(id, title)
}
const beginOne = useNewHandout()
const begin = () => beginOne(classId.value)
const columns = computed(() => cls.value?.columns.map((c) => c.field) ?? [])
async function readFile(body: Of<'PlanFile'>) {
  const h = await data(api.POST('/classes/{classId}/handouts/file', { params: path.value, body }))
  void router.push({ name: 'handout', params: { classId: classId.value, handoutId: h.id } })
}
const sum = (h: Of<'HandoutTag'>, ...states: string[]) => states.reduce((n, s) => n + (h.counts[s] ?? 0), 0)
const what = (h: Of<'HandoutTag'>) => {
  if (h.way === 'notice' && h.packedAt)
    return t(h.withdrawnAt ? 'handouts.notice-down' : 'handouts.notice-up', {
      when: ago(Date.parse(h.withdrawnAt || h.packedAt), t),
    })
  if (h.withdrawnAt) return t('handouts.withdrawn', { when: ago(Date.parse(h.withdrawnAt), t) })
  if (!h.packedAt && h.send) return t(h.sendProblem ? 'handouts.unsent' : 'handouts.sends', { when: wall(h.send) })
  if (!h.packedAt) return t('handouts.draft', { when: ago(Date.parse(h.changedAt), t) })
  const bits = [
    t('handouts.shared', { n: sum(h, 'shared', 'opened', 'working') }),
    t('handouts.begun', { n: sum(h, 'working') }),
  ]
  if (sum(h, 'stuck')) bits.push(t('handouts.stuck', { n: sum(h, 'stuck') }))
  if (sum(h, 'waits')) bits.push(t('handouts.waits', { n: sum(h, 'waits') }, sum(h, 'waits')))
  if (sum(h, 'not-made')) bits.push(t('handouts.missing', { n: sum(h, 'not-made') }))
  if (sum(h, 'out')) bits.push(t('handouts.out', { n: sum(h, 'out') }))
  return bits.join(' · ')
}
</script>

<template>
  <div class="handouts">
    <HeadActs
      ><Button v-if="mayPack" type="primary" data-act="new-handout" @click="begin">{{
        t('handouts.new')
      }}</Button></HeadActs
    >
    <section v-if="list && !list.length" class="empty">
      <h2>{{ t('handouts.empty') }}</h2>
      <p class="quiet">{{ t('handouts.empty-text') }}</p>
      <Button v-if="mayPack" type="primary" @click="begin">{{ t('handouts.new') }}</Button>
    </section>
    <div v-if="list && mayPack" class="heads">
      <PlanFile :columns="columns" :read="readFile" words="handout-file" />
      <template v-if="list.length">
        <Button v-if="naming !== 'new'" size="small" data-act="new-heading" @click="name('new', '')">{{
          t('headings.new')
        }}</Button>
        <Input
          v-else
          v-model:value="called"
          v-focus
          size="small"
          class="called"
          :maxlength="200"
          :aria-label="t('headings.title')"
          :placeholder="t('headings.example')"
          @press-enter="named('')"
          @blur="named('')"
        />
        <a v-if="list.some((x) => x.due)" :href="`/api/classes/${classId}/calendar`" download data-act="calendar">{{
          t('handouts.calendar')
        }}</a>
      </template>
    </div>
    <section
      v-for="g in order.groups.value"
      :key="g.id"
      class="group"
      :data-heading="g.title"
      @dragover.prevent
      @drop.prevent="order.drop(g.id, '')"
    >
      <div v-if="g.id" class="heading">
        <button
          v-if="mayPack"
          class="plain grip"
          draggable="true"
          :data-grip="g.id"
          :aria-label="t('headings.move', { title: g.title })"
          @dragstart="order.drag({ heading: g.id })"
          @keydown="order.key($event, { heading: g.id })"
        >
          <GripMark />
        </button>
        <button class="plain fold" :aria-expanded="!g.folded" @click="order.fold(g.id, !g.folded, mayPack)">
          <span class="arrow" aria-hidden="true">{{ g.folded ? '▸' : '▾' }}</span>
          <h2 v-if="naming !== g.id">{{ g.title }}</h2>
          <span v-if="g.folded" class="quiet">{{ t('headings.holds', { n: g.all.length }, g.all.length) }}</span>
        </button>
        <Input
          v-if="naming === g.id"
          v-model:value="called"
          v-focus
          size="small"
          class="called"
          :maxlength="200"
          :aria-label="t('headings.title')"
          @press-enter="named(g.title)"
          @blur="named(g.title)"
        />
        <template v-else-if="mayPack">
          <button class="link" data-act="rename-heading" @click="name(g.id, g.title)">
            {{ t('headings.rename') }}
          </button>
          <button class="link" data-act="remove-heading" @click="order.remove(g.id)">{{ t('headings.remove') }}</button>
        </template>
      </div>
      <p v-if="g.id && !g.all.length" class="quiet none">{{ t('headings.none') }}</p>
      <div class="lines" :class="{ many: g.all.length > 8 }">
        <div v-for="h in g.folded ? [] : g.all" :key="h.id" class="line" @drop.prevent.stop="order.drop(g.id, h.id)">
          <button
            v-if="mayPack && (order.groups.value.length > 1 || g.all.length > 1)"
            class="plain grip"
            draggable="true"
            :data-grip="h.id"
            :aria-label="t('headings.move', { title: h.title || t('handouts.untitled') })"
            @dragstart="order.drag({ handout: h.id })"
            @keydown="order.key($event, { handout: h.id })"
          >
            <GripMark />
          </button>
          <RouterLink
            class="one"
            :data-handout="h.title"
            :class="{ draft: !h.packedAt }"
            :to="{ name: 'handout', params: { classId, handoutId: h.id } }"
          >
            <span class="title display">{{ h.title || t('handouts.untitled') }}</span>
            <span class="quiet"
              >{{ what(h)
              }}<template v-if="h.together.length">
                · {{ t('together.with', { classes: h.together.join(', ') }) }}</template
              ></span
            >
            <span class="due" :class="{ faint: h.due && past(h.due) }">{{
              h.due ? t('handouts.due', { when: wall(h.due) }) : ''
            }}</span>
          </RouterLink>
        </div>
      </div>
    </section>
    <p class="seen-not" role="status">{{ order.said.value }}</p>
  </div>
</template>

<style scoped>
.handouts {
  overflow-y: auto;
  padding: 8px var(--edge) 24px;
}
.heads {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  align-items: center;
  margin: 4px 0 8px;
}
.called {
  max-width: 320px;
}
.group {
  padding-bottom: 10px;
}
.heading {
  display: flex;
  align-items: center;
  gap: 10px;
  border-bottom: 1.5px solid var(--thread);
  padding: 6px 0 4px;
}
.heading h2 {
  margin: 0;
  font-size: 19px;
}
.fold {
  display: flex;
  align-items: baseline;
  gap: 8px;
}
.line {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  align-items: center;
}
.grip {
  cursor: grab;
  color: var(--ink-2);
  min-width: 28px;
  padding: 8px 6px !important;
}
.none {
  padding: 8px 26px;
  margin: 0;
}
.seen-not {
  position: absolute;
  width: 1px;
  height: 1px;
  overflow: hidden;
  clip-path: inset(50%);
}
.one {
  display: grid;
  grid-template-columns: minmax(200px, 300px) minmax(0, 1fr) auto;
  gap: 18px;
  align-items: baseline;
  padding: 11px 8px;
  border-bottom: 1px solid var(--thread-2);
  color: var(--ink);
  text-decoration: none;
}
.one:hover {
  background: var(--leather-soft);
}
.title {
  font-size: 17px;
}
.draft .title {
  color: var(--leather-2);
}
.empty {
  padding: 40px 0;
  display: grid;
  gap: 12px;
  justify-items: start;
}
@media (max-width: 760px) {
  .one {
    grid-template-columns: minmax(0, 1fr);
    gap: 2px;
  }
}
@media (min-width: 1600px) {
  .lines.many {
    columns: 2;
    column-gap: 48px;
  }
  .lines.many .line {
    break-inside: avoid;
  }
}
</style>
