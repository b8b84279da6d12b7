<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { plainName } from '@/parts/plainName'
import { api, data, type Of } from '@/api/client'
import TagMark from '@/parts/TagMark.vue'
import { useReasons } from '@/reasons'
import { sentence, tellDone } from '@/tell'
import { ago, exact, weekday } from '@/when'
import { aboutAddress, correctAddress, sayTheirs } from './address'
import { useClass } from './theClass'

/** The side desk: one student's things, and what can be done with the one that is chosen. */
const props = defineProps<{ classId: string; row: string; column: number }>()
const emit = defineEmits<{ close: []; column: [number] }>()
const { cls } = useClass()
const { t } = useI18n()
const { reasonText } = useReasons()
const { data: desk } = useQuery({
  queryKey: computed(() => ['desk', props.classId, props.row]),
  queryFn: () =>
    data(
      api.GET('/classes/{classId}/students/{rowId}', {
        params: { path: { classId: props.classId, rowId: props.row } },
      }),
    ),
})
const thing = computed<Of<'DeskThing'> | undefined>(() => desk.value?.things[props.column])
const title = computed(() => (thing.value?.handout ? thing.value.title : t('purpose.satchel')))
const days = computed(() => {
  const max = Math.max(1, ...(thing.value?.days ?? []))
  const today = new Date().getTime()
  return (thing.value?.days ?? []).map((n, i) => ({
    n,
    tall: Math.round((100 * n) / max),
    name: i === 6 ? t('when.this-day') : weekday(new Date(today - (6 - i) * 86_400_000).toISOString().slice(0, 10)),
  }))
})
const mayPack = computed(() => cls.value?.my === 'owner' || cls.value?.my === 'teacher')
const needsAddress = computed(() => aboutAddress(thing.value?.reason?.code))
const address = ref('')
const problem = ref('')
const busy = ref(false)
watch(
  thing,
  (x) => {
    address.value = x?.reason?.args?.suggestion ?? desk.value?.address ?? ''
    problem.value = ''
  },
  { immediate: true },
)

async function fix(theirs = false) {
  busy.value = true
  problem.value = ''
  const x = thing.value!
  try {
    if (theirs) await sayTheirs(props.classId, props.row)
    if (x.run && x.seq !== undefined) {
      await api.POST('/classes/{classId}/runs/{runId}/lines/{seq}/fix', {
        params: { path: { classId: props.classId, runId: x.run, seq: x.seq } },
        body: needsAddress.value && !theirs ? { address: address.value } : {},
      })
    } else if (!theirs) await correctAddress(props.classId, props.row, address.value)

    // Whatever else the student lacks now is packed as well.
    await api.POST('/classes/{classId}/top-up', { params: { path: { classId: props.classId } } })
  } catch (e) {
    problem.value = sentence(e)
  } finally {
    busy.value = false
  }
}
async function takeLink() {
  await navigator.clipboard.writeText(`${window.location.origin}/go/${thing.value!.link}`)
  tellDone(t('desk.copied'))
}
const level = (a: Of<'Access'>) =>
  a.why === 'staff' ? t('desk.as-staff', { level: t(`level.${a.level}`) }) : t(`level.${a.level}`)
</script>

<template>
  <aside class="desk" :aria-label="desk?.name">
    <template v-if="desk && thing">
      <div class="top">
        <h2>
          <bdi>{{ desk.name }}</bdi>
        </h2>
        <button class="link" @click="emit('close')">{{ t('act.close') }}</button>
      </div>
      <div class="of quiet">{{ title }} · {{ thing.handout ? t('desk.own-copy') : t('desk.private') }}</div>
      <div class="now">
        <TagMark :state="thing.state" :fill="thing.words ? 60 : 0" bare />
        <span>
          <strong>{{ t(`state.${thing.state}`) }}.</strong>
          <template v-if="thing.reason">
            <span class="bad">{{ reasonText(thing.reason) }}</span></template
          >
          <template v-else-if="thing.words"> {{ t('desk.words', { n: thing.words }, thing.words) }}</template>
          <template v-else-if="thing.sharedAt">
            {{ t('desk.shared-at', { when: ago(Date.parse(thing.sharedAt), t) }) }}</template
          >
          <template v-if="thing.changed"> {{ t('desk.changed', { when: ago(thing.changed * 1000, t) }) }}</template>
        </span>
      </div>
      <form v-if="thing.state === 'stuck' && mayPack" class="fix" @submit.prevent="fix()">
        <Input v-if="needsAddress" v-model:value="address" :aria-label="t('roster.address')" />
        <Button type="primary" html-type="submit" :loading="busy">{{
          needsAddress ? t('belt.fix') : t('belt.again')
        }}</Button>
        <Button v-if="thing.reason?.code === 'account-other-name'" data-act="confirm" @click="fix(true)">{{
          t('draft.same-student')
        }}</Button>
        <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
      </form>
      <template v-if="thing.handout && thing.words">
        <h3>{{ t('desk.days') }}</h3>
        <div class="bars" aria-hidden="true">
          <div v-for="(d, i) in days" :key="i" :class="{ no: !d.n }" :style="{ height: `${d.tall}%` }" />
        </div>
        <div class="names">
          <span v-for="(d, i) in days" :key="i" :title="t('state.words', { n: d.n }, d.n)">{{ d.name }}</span>
        </div>
      </template>
      <template v-if="!thing.handout && thing.thing">
        <h3>{{ t('desk.inside') }}</h3>
        <p v-if="!thing.inside.length" class="quiet">{{ t('desk.nothing-inside') }}</p>
        <RouterLink v-for="x in thing.inside" :key="x.id" class="row" :to="`/things/${x.id}`">
          <span>{{ plainName(x.name) }}</span><span class="quiet">{{
            x.kind === 'folder' ? t('thing.folder') : x.owner === desk.name ? t('desk.added') : ''
          }}</span>
        </RouterLink>
      </template>
      <template v-if="thing.access.length">
        <h3>{{ t('desk.who') }}</h3>
        <div v-for="a in thing.access" :key="a.name + a.why" class="row">
          <bdi>{{ a.name }}</bdi><span class="quiet">{{ level(a) }}</span>
        </div>
        <div class="row">
          <span>{{ t('desk.classmates') }}</span><span class="quiet">{{ t('desk.nobody') }}</span>
        </div>
      </template>
      <template v-if="thing.where.length && thing.handout">
        <h3>{{ t('desk.where') }}</h3>
        <p>
          <bdi>{{ thing.where.join(' › ') }}</bdi> ›
          <RouterLink :to="`/things/${thing.thing}`"
            ><bdi>{{ plainName(thing.name) }}</bdi></RouterLink
          >
        </p>
      </template>
      <div class="acts">
        <RouterLink v-if="thing.thing" :to="`/things/${thing.thing}`" data-act="open"
          ><Button type="primary">{{
            thing.handout ? t('desk.open-copy') : t('desk.open-satchel')
          }}</Button></RouterLink
        >
        <Button v-if="thing.link" @click="takeLink">{{ t('desk.take-link') }}</Button>
      </div>
      <h3>{{ t('desk.all') }}</h3>
      <button
        v-for="(x, k) in desk.things"
        :key="k"
        class="plain other"
        :class="{ on: k === column }"
        @click="emit('column', k)"
      >
        <TagMark :state="x.state" :fill="x.words ? 50 : 0" bare /><span class="grow">{{
          x.handout ? x.title : t('purpose.satchel')
        }}</span>
        <span class="quiet" :title="x.changed ? exact(x.changed * 1000) : undefined">{{
          x.changed ? ago(x.changed * 1000, t) : t(`state.${x.state}`)
        }}</span>
      </button>
    </template>
  </aside>
</template>

<style scoped>
.desk {
  border-left: 1px solid var(--thread);
  background: var(--sheet);
  padding: 16px 20px;
  font-size: 14.5px;
  overflow-y: auto;
  margin-top: 10px;
}
.top {
  display: flex;
  justify-content: space-between;
  gap: 10px;
  align-items: baseline;
}
.of {
  font-size: 14px;
  margin-bottom: 10px;
}
.now {
  display: flex;
  gap: 10px;
  align-items: center;
}
.now strong {
  display: inline-block;
  font-weight: 650;
}
.now strong::first-letter {
  text-transform: uppercase;
}
.fix {
  display: grid;
  gap: 8px;
  margin-top: 12px;
  justify-items: start;
}
.bars {
  display: flex;
  gap: 6px;
  align-items: flex-end;
  height: 54px;
  border-bottom: 1px solid var(--thread);
}
.bars div {
  flex: 1;
  background: var(--moss-fill);
  border-radius: 3px 3px 0 0;
}
.bars div.no {
  background: var(--thread-2);
  height: 3px !important;
}
.names {
  display: flex;
  gap: 6px;
  font-size: 11.5px;
  color: var(--ink-3);
}
.names span {
  flex: 1;
  text-align: center;
}
.row {
  display: flex;
  justify-content: space-between;
  gap: 10px;
  padding: 3px 0;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 7px;
  margin-top: 14px;
}
.other {
  display: flex;
  gap: 8px;
  align-items: center;
  width: 100%;
  padding: 4px 6px;
  margin: 0 -6px;
  border-radius: 4px;
  font-size: 14px;
}
.other.on,
.other:hover {
  background: var(--leather-soft);
}
@media (max-width: 1000px) {
  .desk {
    position: fixed;
    inset: 0 0 0 auto;
    width: min(380px, 100vw);
    z-index: 10;
    margin: 0;
  }
}
</style>
