<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data } from '@/api/client'
import { keys } from '@/api/keys'
import { useNewHandout } from '@/handout/newHandout'
import { useClass } from '@/class/theClass'
import { useActing } from '@/parts/acting'
import { useSaving } from '@/parts/saving'
import { tellDone } from '@/tell'
import MessageForm from '@/telling/MessageForm.vue'
import HandOverForm from '@/handout/HandOverForm.vue'
import OwnForm from '@/handout/OwnForm.vue'
import StandingForm from '@/handout/StandingForm.vue'
import TimesForm from '@/handout/TimesForm.vue'
import { useOpening } from '@/room/opening'
import { usePlacePens } from '@/room/placePens'

/** What can be done for chosen students, with their satchels or with one handout of theirs. */
const props = defineProps<{ classId: string; rows: string[]; about?: string; closing?: boolean }>()
const { t } = useI18n()
const queries = useQueryClient()
const params = computed(() => ({ path: { classId: props.classId } }))
const handout = ref(props.about ?? '') // whose copies are meant; none: the satchels
const { data: handouts } = useQuery({
  queryKey: computed(() => keys.handouts(props.classId)),
  queryFn: () => data(api.GET('/classes/{classId}/handouts', { params: params.value })),
})
const offered = computed(() => (handouts.value ?? []).filter((h) => h.way !== 'notice' && !h.withdrawnAt).reverse())
const { busy, problem, act } = useActing()
const copyLinks = () =>
  act(async () => {
    const query = { handout: handout.value || undefined }
    const all = await data(api.GET('/classes/{classId}/links', { params: { ...params.value, query } }))
    const mine = all.links.filter((l) => props.rows.includes(l.row))
    await navigator.clipboard.writeText(mine.map((l) => `${l.student}\t${l.name}\t${l.link}`).join('\n'))
    tellDone(t('chosen.copied', { n: mine.length }, mine.length))
  })
const topUp = () =>
  act(async () => {
    const done = await data(api.POST('/classes/{classId}/top-up', { params: params.value, body: { rows: props.rows } }))
    tellDone(t('chosen.topping', { n: done.students }, done.students))
  })
const sitOut = (out: boolean) =>
  act(async () => {
    const to = { out: Object.fromEntries(props.rows.map((r) => [r, out ? 'sits-out' : ''])) }
    await api.PATCH('/classes/{classId}/handouts/{handoutId}', {
      params: { path: { ...params.value.path, handoutId: handout.value } },
      body: { to, was: {} },
    })
    await queries.invalidateQueries({ queryKey: keys.register(props.classId) })
    await queries.invalidateQueries({ queryKey: keys.handout(props.classId) })
    tellDone(t(out ? 'chosen.out' : 'chosen.in', { n: props.rows.length }, props.rows.length))
  })
const { save } = useSaving()
const saveAs = (format: string) =>
  act(() =>
    save(
      api.POST('/classes/{classId}/register/export/{format}', {
        params: { path: { ...params.value.path, format } },
        body: { rows: props.rows },
        parseAs: 'blob',
      }),
    ),
  )
const writing = ref(false)
const times = ref(!!props.closing) // extra time, or pens down for these alone
const pens = usePlacePens(
  computed(() => props.classId),
  act,
)
const { cls } = useClass()
const opening = useOpening(computed(() => props.classId))
const handing = ref(false) // they become owners
const own = ref(false) // a name or place of their own is being said
const ownable = computed(() => offered.value.some((h) => h.id === handout.value))
const begin = useNewHandout()
const notice = () => begin(props.classId, { notice: true, only: props.rows })
</script>

<template>
  <div class="chosen" data-form="chosen-acts">
    <label
      >{{ t('chosen.of') }}
      <select v-model="handout" class="pick-one">
        <option value="">{{ t('chosen.satchels') }}</option>
        <option v-for="h in offered" :key="h.id" :value="h.id">{{ h.title || t('handouts.untitled') }}</option>
      </select></label
    >
    <div class="acts">
      <Button size="small" :disabled="busy" data-act="copy-links" @click="copyLinks">{{ t('chosen.copy') }}</Button>
      <template v-if="handout">
        <Button size="small" :disabled="busy" data-act="sit-out" @click="sitOut(true)">{{
          t('chosen.sit-out')
        }}</Button>
        <Button size="small" :disabled="busy" data-act="take-in" @click="sitOut(false)">{{
          t('chosen.take-in')
        }}</Button>
      </template>
      <Button v-if="ownable" size="small" :disabled="busy" data-act="own-chosen" @click="own = !own">{{
        t('chosen.own')
      }}</Button>
      <template v-else>
        <Button
          v-for="down in [true, false]"
          :key="String(down)"
          size="small"
          :disabled="busy || !rows.length"
          :data-act="down ? 'close-satchels' : 'open-satchels'"
          @click="pens('cloakroom', down, rows)"
          >{{ t(down ? 'chosen.close-satchels' : 'chosen.open-satchels') }}</Button
        >
      </template>
      <Button size="small" :disabled="busy" data-act="times-chosen" @click="times = !times">{{
        t(handout ? 'chosen.times' : 'times.always')
      }}</Button>
      <Button size="small" :disabled="busy" data-act="hand-over-chosen" @click="handing = !handing">{{
        t('chosen.hand-over')
      }}</Button>
      <Button
        v-if="cls?.opening"
        size="small"
        :disabled="busy || !rows.length"
        data-act="open-chosen"
        @click="act(() => opening.now(rows))"
        >{{ t('opening.for-chosen') }}</Button
      >
      <Button size="small" :disabled="busy" data-act="top-up-chosen" @click="topUp">{{ t('chosen.top-up') }}</Button>
      <Button size="small" :disabled="busy" data-act="write" @click="writing = !writing">{{ t('mail.write') }}</Button>
      <Button size="small" :disabled="busy" data-act="notice-chosen" @click="notice">{{ t('panel.notice') }}</Button>
    </div>
    <MessageForm
      v-if="writing"
      :key="handout"
      :class-id="classId"
      :handout-id="handout"
      :rows="rows"
      @sent="writing = false"
    />
    <StandingForm v-if="times && !handout && rows.length" :class-id="classId" :rows="rows" @done="times = false" />
    <TimesForm v-if="times && handout" :key="handout" :class-id="classId" :handout-id="handout" :rows="rows" />
    <HandOverForm
      v-if="handing"
      :key="handout"
      :class-id="classId"
      :handout-id="handout"
      :rows="rows"
      @done="handing = false"
    />
    <OwnForm v-if="own && ownable" :key="handout" :class-id="classId" :handout-id="handout" :rows="rows" />
    <p class="files">
      {{ t('chosen.save') }}
      <button v-for="f in ['csv', 'xlsx', 'ods']" :key="f" class="link" :data-save="f" @click="saveAs(f)">
        {{ f.toUpperCase() }}
      </button>
    </p>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
  </div>
</template>

<style scoped>
.chosen {
  display: grid;
  gap: 8px;
  margin-bottom: 14px;
  font-size: 14px;
}
.acts {
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
}
.files {
  display: flex;
  gap: 10px;
  margin: 0;
}
label select {
  max-width: 100%;
}
</style>
