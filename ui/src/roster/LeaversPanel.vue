<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useActing } from '@/parts/acting'
import { me } from '@/me'
import { ago, exact } from '@/when'
import { useClass } from '@/class/theClass'

/** Those who left, and what happens to what is theirs: asked once, found again here. */
const { cls, classId, mayPack } = useClass()
const { t } = useI18n()
const queries = useQueryClient()
const queryKey = computed(() => keys.leavers(classId.value, cls.value?.revision ?? 0))
const { data: leavers } = useQuery({
  queryKey,
  queryFn: () => data(api.GET('/classes/{classId}/leavers', { params: { path: { classId: classId.value } } })),
  placeholderData: (old) => old,
})
const sure = ref('') // row and decision that is asked about once more
const { busy, problem, act } = useActing()
type Decision = Of<'Deciding'>['decision']
async function decide(l: Of<'Leaver'>, decision: Decision) {
  await act(() =>
    api.POST('/classes/{classId}/rows/{rowId}/leaving', {
      params: { path: { classId: classId.value, rowId: l.row } },
      body: { decision, own: l.own },
    }),
  )
  sure.value = ''
  await queries.invalidateQueries({ queryKey: keys.leavers() })
}
const mayAnswer = computed(() => mayPack.value || me.value?.role === 'office')
async function answer(l: Of<'Leaver'>, asks: string, yes: boolean) {
  await act(() =>
    api.POST('/classes/{classId}/rows/{rowId}/request', {
      params: { path: { classId: classId.value, rowId: l.row } },
      body: { yes, asks },
    }),
  )
  await queries.invalidateQueries({ queryKey: keys.leavers() })
  await queries.invalidateQueries({ queryKey: keys.classes() })
}
const what = (l: Of<'Leaver'>) =>
  [
    t('leaver.copies', { n: l.copies }, l.copies),
    l.begun ? t('leaver.begun', { n: l.begun }, l.begun) : '',
    t('leaver.own', { n: l.own }, l.own),
    l.newest ? t('leaver.newest', { when: ago(Date.parse(l.newest), t) }) : '',
  ]
    .filter(Boolean)
    .join(', ')
</script>

<template>
  <div>
    <h2>{{ t('leaver.title') }}</h2>
    <p class="quiet">{{ t('leaver.text') }}</p>
    <p v-if="leavers && !leavers.length" class="quiet">{{ t('leaver.none') }}</p>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
    <article v-for="l in leavers" :key="l.row" :data-leaver="l.student">
      <h3>
        <bdi>{{ l.student }}</bdi>
      </h3>
      <p class="quiet" :title="exact(Date.parse(l.leftAt))">
        {{ t('grid.left-when', { when: ago(Date.parse(l.leftAt), t) }) }}: {{ what(l) }}
      </p>
      <p class="now">
        {{
          l.binned
            ? t('leaver.in-bin', { when: l.binUntil ? exact(Date.parse(l.binUntil)) : '' })
            : l.owned
              ? t('leaver.owned')
              : l.decision
                ? t(`leaver.is-${l.decision}`)
                : t('leaver.asked')
        }}
      </p>
      <div v-if="l.request" class="sure asked" data-form="satchel-request">
        <p>{{ t('leaver.request', { by: l.request.by, class: l.request.class }) }} {{ t('leaver.request-text') }}</p>
        <div v-if="mayAnswer" class="acts">
          <Button
            type="primary"
            size="small"
            :loading="busy"
            data-act="give-satchel"
            @click="answer(l, l.request.row, true)"
            >{{ t('leaver.request-yes', { class: l.request.class }) }}</Button
          >
          <Button size="small" :disabled="busy" data-act="refuse-satchel" @click="answer(l, l.request.row, false)">{{
            t('leaver.request-no')
          }}</Button>
        </div>
      </div>
      <div v-if="!l.request && mayPack && sure !== l.row + 'bin' && sure !== l.row + 'hand-over'" class="acts">
        <Button v-if="l.binned" size="small" :disabled="busy" data-act="bring-back" @click="decide(l, 'bring-back')">{{
          t('remedy.bring-back')
        }}</Button>
        <template v-else>
          <Button v-if="!l.decision" size="small" :disabled="busy" data-act="keep" @click="decide(l, 'keep')">{{
            t('leaver.keep')
          }}</Button>
          <Button size="small" :href="`/api/classes/${classId}/rows/${l.row}/archive`" download>{{
            t('leaver.archive')
          }}</Button>
          <Button v-if="!l.owned && l.account" size="small" :disabled="busy" @click="sure = l.row + 'hand-over'">{{
            t('leaver.hand-over')
          }}</Button>
          <Button v-if="!l.owned" size="small" :disabled="busy" data-act="bin" @click="sure = l.row + 'bin'">{{
            t('leaver.bin')
          }}</Button>
        </template>
      </div>
      <div v-else-if="!l.request && mayPack" class="sure">
        <p>{{ t(sure === l.row + 'bin' ? 'leaver.bin-text' : 'leaver.hand-over-text', { what: what(l) }) }}</p>
        <div class="acts">
          <Button
            v-if="sure === l.row + 'bin'"
            danger
            size="small"
            :loading="busy"
            data-act="bin-sure"
            @click="decide(l, 'bin')"
            >{{ t('leaver.bin-sure') }}</Button
          >
          <Button
            v-else
            type="primary"
            size="small"
            :loading="busy"
            data-act="hand-over-sure"
            @click="decide(l, 'hand-over')"
            >{{ t('leaver.hand-over-sure') }}</Button
          >
          <Button size="small" @click="sure = ''">{{ t('act.cancel') }}</Button>
        </div>
      </div>
    </article>
  </div>
</template>

<style scoped>
article {
  border-top: 1px solid var(--thread-2);
  padding: 8px 0 10px;
}
h3 {
  margin: 4px 0 2px;
  font-size: 15px;
  color: var(--ink);
}
.now {
  font-weight: 600;
  margin: 3px 0 6px;
}
.acts {
  display: flex;
  gap: 7px;
  flex-wrap: wrap;
}
.sure {
  display: grid;
  gap: 7px;
}
.asked {
  border-left: 3px solid var(--brass);
  padding: 2px 0 2px 10px;
  margin: 4px 0 8px;
}
.asked p {
  margin: 0;
}
</style>
