<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { makeCodes } from '@/school/codes'
import { plainName } from '@/parts/plainName'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useNewHandout } from '@/handout/newHandout'
import { useActing } from '@/parts/acting'
import SidePanel from '@/parts/SidePanel.vue'
import ToldPart from '@/telling/ToldPart.vue'
import TagMark from '@/parts/TagMark.vue'
import { aboutAddress, useReasons } from '@/reasons'
import { tellDone, tellProblem } from '@/tell'
import { ago, exact, moment } from '@/when'
import ApartPart from './ApartPart.vue'
import CuePicker from './CuePicker.vue'
import DayBars from './DayBars.vue'
import { me } from '@/me'
import { mendStudent, packStudent } from '@/packing/mending'
import { useClass } from '@/class/theClass'

/** The side panel: one student's things, and what can be done with the one that is chosen. */
const props = defineProps<{ classId: string; row: string; column: number }>()
const emit = defineEmits<{ close: []; column: [number] }>()
const { mayPack } = useClass()
const { t } = useI18n()
const { reasonText } = useReasons()
const { data: panel } = useQuery({
  queryKey: computed(() => keys.panel(props.classId, props.row)),
  queryFn: () =>
    data(
      api.GET('/classes/{classId}/students/{rowId}', {
        params: { path: { classId: props.classId, rowId: props.row } },
      }),
    ),
})
const doc = ref(0) // which of several documents of a handout
watch(
  () => [props.row, props.column],
  () => (doc.value = 0),
)
const here = computed(() => panel.value?.things.filter((x) => x.column === props.column) ?? [])
const thing = computed<Of<'PanelThing'> | undefined>(() => here.value[doc.value] ?? here.value[0])
const several = (x: Of<'PanelThing'>) => panel.value!.things.filter((o) => o.column === x.column).length > 1
function show(x: Of<'PanelThing'>) {
  if (x.column === props.column) doc.value = here.value.indexOf(x)
  else emit('column', x.column)
}
/** What is in the satchel is asked of the cupboard itself, beside all that was seen before. */
const satchel = computed(() => (thing.value && !thing.value.handout ? thing.value.thing : ''))
const {
  data: inside,
  isError: insideTroubled,
  refetch: lookInside,
} = useQuery({
  queryKey: computed(() => keys.thing(satchel.value, 'inside', thing.value?.inside)),
  queryFn: () => data(api.GET('/things/{thingId}', { params: { path: { thingId: satchel.value } } })),
  enabled: computed(() => !!satchel.value),
})
const called = (x: Of<'PanelThing'>) =>
  !x.handout ? t('purpose.satchel') : several(x) ? plainName(x.name || x.title) : x.title
// Another code for anyone who forgot their password, where the office lets teachers give it.
const code = ref('')
watch(
  () => props.row,
  () => (code.value = ''),
)
async function newCode(mail = false) {
  try {
    const params = { path: { classId: props.classId } }
    const got = await makeCodes((replace) =>
      data(api.POST('/classes/{classId}/codes', { params, body: { rows: [props.row], away: true, mail, replace } })),
    )
    if (got && mail) tellDone(t('mail.sent-n', { n: got.length }, got.length))
    else code.value = got?.[0]?.code ?? ''
  } catch (e) {
    tellProblem(e)
  }
}
const begin = useNewHandout()
const beginNotice = () => begin(props.classId, { notice: true, only: [props.row] })
const title = computed(() => (thing.value ? called(thing.value) : ''))
const needsAddress = computed(() => aboutAddress(thing.value?.reason?.code))
const address = ref('')
const { busy, problem, act } = useActing()
watch(
  thing,
  (x) => {
    address.value = x?.reason?.args?.suggestion ?? panel.value?.address ?? ''
    problem.value = ''
  },
  { immediate: true },
)

const fix = (theirs = false) =>
  act(() =>
    theirs || needsAddress.value
      ? mendStudent(props.classId, props.row, theirs ? null : address.value, true)
      : packStudent(props.classId, props.row),
  )
async function takeLink() {
  await navigator.clipboard.writeText(`${me.value?.site}/go/${thing.value!.link}`)
  tellDone(t(wide.value ? 'panel.copied-wide' : 'panel.copied'))
}
const wide = computed(() => thing.value?.access.find((a) => a.why === 'school'))
const mates = computed(() => thing.value?.access.filter((a) => a.why === 'mate') ?? [])
const level = (a: Of<'Access'>) =>
  a.why === 'staff' ? t('panel.as-staff', { level: t(`level.${a.level}`) }) : t(`level.${a.level}`)
</script>

<template>
  <SidePanel :title="panel?.name ?? ''" @close="emit('close')">
    <template v-if="panel && thing">
      <p v-if="panel.twin" class="of" data-twin>
        {{
          [
            panel.number && t('panel.number', { number: panel.number }),
            panel.class && t('panel.class', { class: panel.class }),
            panel.address,
          ]
            .filter(Boolean)
            .join(' · ')
        }}
      </p>
      <div class="of quiet">
        {{ title }} ·
        {{
          thing.handout
            ? t(`panel.of-${thing.of}`)
            : mates.length
              ? t('panel.not-private', { n: mates.length }, mates.length)
              : t('panel.private')
        }}
      </div>
      <div class="now">
        <TagMark :state="thing.state" :fill="thing.fill" bare />
        <span>
          <strong>{{ t(`state.${thing.state}`) }}.</strong>
          <template v-if="thing.reason">
            <span :class="thing.state === 'stuck' ? 'bad' : 'brass'">{{ reasonText(thing.reason) }}</span></template
          >
          <template v-else-if="thing.words === -1"> {{ t('panel.uncounted') }}</template>
          <template v-else-if="thing.words"> {{ t('panel.words', { n: thing.words }, thing.words) }}</template>
          <template v-else-if="thing.sharedAt">
            {{ t('panel.shared-at', { when: ago(Date.parse(thing.sharedAt), t) }) }}</template
          >
          <template v-if="thing.changed"> {{ t('panel.changed', { when: ago(thing.changed * 1000, t) }) }}</template>
        </span>
      </div>
      <form v-if="['stuck', 'waits'].includes(thing.state) && mayPack" class="fix" @submit.prevent="fix()">
        <Input v-if="needsAddress" v-model:value="address" :aria-label="t('roster.address')" />
        <Button type="primary" html-type="submit" :loading="busy">{{
          !needsAddress ? t('belt.again') : thing.state === 'waits' ? t('list.correct') : t('belt.fix')
        }}</Button>
        <Button v-if="thing.reason?.code === 'account-other-name'" data-act="confirm" @click="fix(true)">{{
          t('draft.same-student')
        }}</Button>
        <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
      </form>
      <div class="acts">
        <RouterLink v-if="thing.thing" :to="`/things/${thing.thing}`" data-act="open"
          ><Button type="primary">{{
            thing.handout ? t('panel.open-copy') : t('panel.open-satchel')
          }}</Button></RouterLink
        >
        <RouterLink :to="{ name: 'eyes', params: { classId, rowId: row } }" data-act="eyes"
          ><Button>{{ t('eyes.look') }}</Button></RouterLink
        >
        <Button v-if="thing.link" @click="takeLink">{{ t('panel.take-link') }}</Button>
        <Button v-if="mayPack && !thing.handout" :disabled="busy" data-act="new-code" @click="newCode()">{{
          t('panel.code')
        }}</Button>
        <Button v-if="mayPack && !thing.handout" :disabled="busy" data-act="mail-code" @click="newCode(true)">{{
          t('panel.code-mail')
        }}</Button>
        <Button v-if="mayPack" data-act="notice" @click="beginNotice">{{ t('panel.notice') }}</Button>
      </div>
      <ApartPart :key="`${row} ${column}`" :panel="panel" :thing="thing" />
      <p v-if="code" role="status" data-code>{{ t('panel.code-is', { code }) }}</p>
      <p v-if="thing.shown" class="of" data-part="panel-shown">
        {{
          t(thing.shown.asked ? 'panel.shown-asked' : 'panel.shown-kept', { when: moment(Date.parse(thing.shown.at)) })
        }}
        <q v-if="thing.shown.word">{{ thing.shown.word }}</q>
        {{ thing.shown.seenAt ? '' : thing.shown.asked ? t('shown.not-seen') : '' }}
        <RouterLink :to="`/things/${thing.thing}`">{{ t('shown.look') }}</RouterLink>
      </p>
      <template v-if="thing.handout && thing.words > 0">
        <h3>{{ t('panel.days') }}</h3>
        <DayBars :days="thing.days" />
      </template>
      <template v-if="!thing.handout && thing.thing">
        <h3>{{ t('panel.inside') }}</h3>
        <p v-if="insideTroubled" class="quiet">
          {{ t('panel.inside-troubled') }} <button class="link" @click="lookInside()">{{ t('act.again') }}</button>
        </p>
        <p v-else-if="inside && !inside.children.length" class="quiet">{{ t('panel.nothing-inside') }}</p>
        <RouterLink v-for="x in inside?.children" :key="x.id" class="row" :to="`/things/${x.id}`">
          <span>{{ plainName(x.name) }}</span><span class="quiet">{{
            x.kind === 'folder' ? t('thing.folder') : x.owner === panel.name ? t('panel.added') : ''
          }}</span>
        </RouterLink>
      </template>
      <CuePicker v-if="!thing.handout && thing.thing && mayPack" :class-id="classId" :row="row" :cue="panel.cue" />
      <template v-if="thing.access.length">
        <h3>{{ t('panel.who') }}</h3>
        <div
          v-for="a in thing.access.filter((x) => x.why !== 'mate' && x.why !== 'school')"
          :key="a.name + a.why"
          class="row"
        >
          <bdi>{{ a.name }}</bdi><span class="quiet">{{ level(a) }}</span>
        </div>
        <div v-if="thing.of === 'student'" class="row">
          <span>{{ t('panel.classmates') }}</span><span class="quiet"
            >{{
              mates.length
                ? t('panel.mates', { n: mates.length, level: t(`level.${mates[0].level}`) }, mates.length)
                : wide
                  ? ''
                  : t('panel.nobody')
            }}{{ wide ? t('panel.school', { level: t(`level.${wide.level}`) }) : '' }}</span
          >
        </div>
      </template>
      <template v-if="thing.where.length && thing.handout">
        <h3>{{ t('panel.where') }}</h3>
        <p>
          <bdi>{{ thing.where.join(' › ') }}</bdi> ›
          <RouterLink :to="`/things/${thing.thing}`"
            ><bdi>{{ plainName(thing.name) }}</bdi></RouterLink
          >
        </p>
      </template>
      <ToldPart :class-id="classId" :row="row" />
      <h3>{{ t('panel.all') }}</h3>
      <button v-for="(x, k) in panel.things" :key="k" class="plain other" :class="{ on: x === thing }" @click="show(x)">
        <TagMark :state="x.state" :fill="x.fill" bare /><span class="grow">{{ called(x) }}</span>
        <span class="quiet" :title="x.changed ? exact(x.changed * 1000) : undefined">{{
          x.changed ? ago(x.changed * 1000, t) : t(`state.${x.state}`)
        }}</span>
      </button>
    </template>
  </SidePanel>
</template>

<style scoped>
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
</style>
