<script setup lang="ts">
import { Modal, Textarea } from 'ant-design-vue'
import { useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { api } from '@/api/client'
import { keys } from '@/api/keys'
import { settled } from '@/api/queries'
import { useClass } from '@/class/theClass'
import WeekChart from '@/parts/WeekChart.vue'
import ReissuePart from '@/packing/ReissuePart.vue'
import WithdrawPart from '@/packing/WithdrawPart.vue'
import { tellProblem } from '@/tell'
import { ago } from '@/when'
import CalledPart from './CalledPart.vue'
import ForWhom from './ForWhom.vue'
import GivenPart from './GivenPart.vue'
import { isNotice, isShared, type Hand } from './handout'
import { useLastTime } from './lastTime'
import MailPart from './MailPart.vue'
import ReachPart from './ReachPart.vue'
import SayPart from './SayPart.vue'
import StoodPart from './StoodPart.vue'
import TitlePart from './TitlePart.vue'
import { useUsual } from './usual'
import { useHandoutWeeks } from './weeks'
import WhenPart from './WhenPart.vue'
import WordsPart from './WordsPart.vue'

/** What a handout does, as a sentence whose parts are changed where they stand. */
const props = defineProps<{ hand: Hand }>()
const { h, path, open, saved, close, message } = props.hand
const { cls, classId, mayPack } = useClass()
const { t } = useI18n()
const router = useRouter()
const queries = useQueryClient()
const notice = computed(() => isNotice(h.value))
const shared = computed(() => isShared(h.value))
// How it came on, for one that was packed when its page was opened: later it would push the lines away.
const { weeks } = useHandoutWeeks(props.hand)
const cameOn = !!h.value?.packedAt
const { unfolded, usual, folds } = useUsual(h)
const { last, differs, away, says } = useLastTime(h, unfolded)

function throwAway() {
  Modal.confirm({
    title: t('handout.throw-title', { title: h.value?.title || t('handouts.untitled') }),
    content: t(h.value?.together.length ? 'together.throw' : 'handout.throw-text'),
    okText: t('handout.throw'),
    cancelText: t('act.cancel'),
    okButtonProps: { danger: true },
    // The page is left before its handout ends, so that nothing asks for what is gone.
    async onOk() {
      const [params, from] = [path.value, router.currentRoute.value.fullPath]
      await router.replace({ name: 'handouts', params: { classId: params.path.classId } })
      await settled(queries, params.path.classId)
      try {
        await api.DELETE('/classes/{classId}/handouts/{handoutId}', { params })
        await queries.invalidateQueries({ queryKey: keys.handouts(params.path.classId) })
      } catch (e) {
        tellProblem(e)
        await router.replace(from)
      }
    },
  })
}
</script>

<template>
  <section v-if="h && cls" class="say">
    <div class="sub">
      <h2>{{ h.title || t('handouts.untitled') }}</h2>
      <span class="quiet"
        >{{
          h.withdrawnAt
            ? t(notice ? 'notice.taken' : 'handouts.withdrawn', { when: ago(Date.parse(h.withdrawnAt), t) })
            : h.packedAt
              ? t(notice ? 'notice.posted' : 'handout.packed', { when: ago(Date.parse(h.packedAt), t) })
              : t(notice ? 'notice.new' : 'handout.new')
        }}<template v-if="saved"> · {{ t('handout.saved', { when: ago(saved, t) }) }}</template></span
      >
    </div>
    <WeekChart v-if="cameOn && weeks?.weeks.length" class="weeks" :weeks="weeks.weeks" :students="weeks.students" />
    <SayPart :head="t('say.what')" :other="differs('way')">
      <GivenPart :hand="hand"><TitlePart :hand="hand" /></GivenPart>
      <WordsPart v-if="notice" :hand="hand" :folds="folds" />
    </SayPart>
    <SayPart :head="t('say.who')"><ForWhom :hand="hand" /></SayPart>
    <template v-if="!notice">
      <SayPart v-if="!away('access')" :head="t('say.access')" :other="differs('access')"
        ><ReachPart :hand="hand" :folds="folds"
      /></SayPart>
      <SayPart
        v-if="!away('name') || hand.problems.value.name || h.own.length || h.levels.length"
        :head="t('say.name')"
        :other="differs('name')"
        ><CalledPart :hand="hand"
      /></SayPart>
    </template>
    <SayPart v-if="!notice || !h.packedAt" :head="t('say.when')" :other="differs('then')"
      ><WhenPart :hand="hand" :folds="folds"
    /></SayPart>
    <SayPart
      v-if="!away('told') || h.message || !folds('note') || !folds('instructions') || !folds('links')"
      :head="t('say.told')"
      :other="differs('told')"
    >
      <MailPart v-if="!away('told')" :hand="hand" />
      <p v-if="!notice && !folds('note')" class="message">
        {{ t('say.with') }}
        <button
          v-if="open !== 'message'"
          class="plain u soft"
          :disabled="!mayPack"
          data-part="message"
          @click="open = 'message'"
        >
          {{ h.message || t('say.nothing') }}
        </button>
        <Textarea
          v-else
          v-model:value="message"
          v-focus
          :auto-size="{ minRows: 2, maxRows: 8 }"
          :maxlength="2000"
          @blur="close('message')"
        />
      </p>
      <WordsPart v-if="!notice" :hand="hand" :folds="folds" />
    </SayPart>
    <p v-if="says && mayPack" class="usual" data-last>
      <button class="link" data-act="unfold" aria-expanded="false" @click="unfolded = true">
        {{ t('say.as-last', { title: last!.title }) }}</button><span class="quiet"> · {{ says }}</span>
    </p>
    <p v-if="usual.length && !unfolded && mayPack" class="usual">
      <button class="link" data-act="unfold" aria-expanded="false" @click="unfolded = true">
        {{ t('say.usual', { n: usual.length }, usual.length) }}</button><span class="quiet">
        · {{ usual.map((u) => t(`say.usual-${u}`)).join(', ') }}</span
      >
    </p>
    <p v-if="h.packedAt && h.together.length && !notice" class="quiet note">
      {{ t('together.here-alone', { class: cls.name }) }}
    </p>
    <ReissuePart
      v-if="h.packedAt && !h.withdrawnAt && mayPack && !notice"
      :class-id="classId"
      :handout-id="h.id"
      :own="!shared"
    />
    <StoodPart v-if="h.packedAt" :key="h.id" :class-id="classId" :handout-id="h.id" />
    <p v-if="!notice" class="quiet note">{{ t('handout.template-safe') }}</p>
    <WithdrawPart
      v-if="h.packedAt && mayPack && !notice"
      :key="h.id"
      :class-id="classId"
      :handout-id="h.id"
      :withdrawn-at="h.withdrawnAt"
    />
    <button v-if="!h.packedAt && mayPack" class="link throw" @click="throwAway">{{ t('handout.throw') }}</button>
  </section>
</template>

<style scoped>
.say {
  padding: 14px 26px 20px 24px;
  font-size: 17.5px;
  line-height: 1.72;
  overflow-y: auto;
}
.sub {
  display: flex;
  gap: 12px;
  align-items: baseline;
  flex-wrap: wrap;
  margin-bottom: 12px;
  font-size: 14px;
}
.say :deep(.u) {
  border-bottom: 2px solid var(--belt-done) !important;
  font-weight: 600;
  padding: 0 1px !important;
  color: var(--leather-2) !important;
  display: inline;
  line-height: 1.35;
}
.say :deep(.u.soft) {
  font-weight: 400;
}
.say :deep(.u:disabled) {
  border-bottom-color: transparent !important;
  color: var(--ink) !important;
  cursor: default;
}
.say :deep(.u.on),
.say :deep(.u:hover:not(:disabled)) {
  background: var(--leather-soft) !important;
  border-radius: 4px 4px 0 0;
}
.say :deep(.u.bad) {
  border-bottom-style: dashed !important;
}
.say :deep(.u-select) {
  font-size: 17.5px;
  font-weight: 600;
  color: var(--leather-2);
  border: 0;
  border-bottom: 2px solid var(--belt-done);
  border-radius: 0;
  padding: 0;
  background: none;
  field-sizing: content;
}
.say :deep(.u-select option) {
  font-size: 15px;
  background: var(--sheet);
}
.say :deep(.pop) {
  background: var(--sheet);
  border: 1px solid var(--thread);
  border-radius: 8px;
  box-shadow: 0 6px 22px rgba(42, 35, 49, 0.12);
  padding: 12px 14px;
  font-size: 14.5px;
  line-height: 1.45;
  margin: 2px 0 14px;
}
.say :deep(.pop .example) {
  margin: 9px 0 0;
}
.say :deep(.pop .example strong) {
  color: var(--ink);
}
.weeks {
  margin: -8px 0 18px;
}
.usual {
  border-top: 1px solid var(--thread);
  padding-top: 10px;
  font-size: 14px;
  line-height: 1.5;
}
.say :deep(.note) {
  font-size: 14px;
  line-height: 1.45;
}
.throw {
  color: var(--brick);
  font-size: 14px;
}
@media (max-width: 1000px) {
  .say {
    overflow: visible;
    padding: 12px 16px 16px;
  }
}
@media print {
  .say {
    overflow: visible;
    padding: 0;
  }
}
</style>
