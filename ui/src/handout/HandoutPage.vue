<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref, watch, watchEffect } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { api, ProblemError, type Of } from '@/api/client'
import { useKeys } from '@/keys'
import { tellDone } from '@/tell'
import { useFilled } from './filled'
import { isNotice, useHandout } from './handout'
import EarlierHandouts from './EarlierHandouts.vue'
import HandoutSentence from './HandoutSentence.vue'
import NoticeSide from './NoticeSide.vue'
import PackingSide from '@/packing/PackingSide.vue'
import TemplatePicker from './TemplatePicker.vue'
import { provideTogether } from './together'
import TogetherMember from './TogetherMember.vue'
import UseAgain from './UseAgain.vue'
import { useHandoutWeeks } from './weeks'
import { useClass } from '@/class/theClass'

/** One handout: a sentence to edit on the left, exactly what it will do on the right. */
const { cls, classId, mayPack } = useClass()
const { t } = useI18n()
const route = useRoute()
const router = useRouter()
const handoutId = computed(() => String(route.params.handoutId))
const hand = useHandout(classId, handoutId)
const { h, error, path, open, problems, change, flush, refresh } = hand
watch(error, (e) => e instanceof ProblemError && e.status === 404 && router.replace({ name: 'handouts' }))

const ready = computed(
  () => !!h.value?.documents.length && !h.value.withdrawnAt && !!h.value?.title && !problems.value.name,
)
const members = provideTogether()
const partners = computed(() => (h.value?.together ?? []).filter((p) => p.yours && mayPack.value))
const all = computed(() => [...members.values()])
// The sentence is shown once it is as it is now, in all its classes: what was kept of before, and
// what comes a moment later, would move the lines of it under a hand. From then on nothing is waited
// for: what changes meanwhile, and a class that is added, comes while it is there. Nor is a cupboard
// waited for that takes long to answer.
const shown = ref('')
const late = ref(false)
watch(
  handoutId,
  (_, __, gone) => {
    late.value = false
    const wait = setTimeout(() => (late.value = true), 1000)
    gone(() => clearTimeout(wait))
  },
  { immediate: true },
)
const { known: filledKnown } = useFilled(hand)
const { known: weeksKnown } = useHandoutWeeks(hand)
const known = computed(
  () =>
    !hand.fetching.value &&
    filledKnown.value &&
    weeksKnown.value &&
    all.value.length >= partners.value.length &&
    all.value.every((m) => m.known.value),
)
watchEffect(() => {
  if (h.value && cls.value && (known.value || late.value)) shown.value = h.value.id
})
async function before() {
  await Promise.all([flush(), ...all.value.map((m) => m.hand.flush())])
  return ![problems.value, ...all.value.map((m) => m.hand.problems.value)].some((p) => Object.values(p).some(Boolean))
}
const send = (pack: Of<'Pack'>, others: { class: string; pack: Of<'Pack'> }[]) =>
  others.length
    ? api.POST('/classes/{classId}/handouts/{handoutId}/together/pack', {
        params: path.value,
        body: { parts: [{ class: classId.value, pack }, ...others] },
      })
    : api.POST('/classes/{classId}/handouts/{handoutId}/pack', { params: path.value, body: pack })
function keep() {
  tellDone(t('handout.kept'))
  void router.push({ name: 'handouts', params: { classId: classId.value } })
}
useKeys((e) => {
  if (e.key === 'Escape') open.value = ''
})
</script>

<template>
  <TogetherMember v-for="p in partners" :key="p.id" :partner="p" />
  <div v-if="h && cls && shown === h.id" class="work panes">
    <HandoutSentence :key="h.id" :hand="hand" />
    <NoticeSide v-if="isNotice(h)" :hand="hand" :before="before">
      <template #acts>
        <Button v-if="!h.packedAt" @click="keep">{{ t('handout.keep') }}</Button>
        <UseAgain v-if="mayPack && h.packedAt" :key="h.id" :class-id="cls.id" :handout-id="h.id" />
      </template>
    </NoticeSide>
    <PackingSide
      v-else
      :list="h.list"
      main="copy"
      :one="h.way === 'one-for-all'"
      :packed="!!h.packedAt"
      :ready="ready"
      :usual="h.way === 'one-each' || h.way === 'by-level' ? h.level : undefined"
      :before="before"
      :members="all"
      :send="send"
      :refresh="refresh"
      @out="(row, why) => change({ out: { [row]: why } }, 'out')"
      @in="(row) => change({ out: { [row]: '' } }, 'out')"
      @level="(row, level) => change({ own: { rows: [row], level: level as Of<'AccessLevel'> } }, 'own')"
    >
      <template v-if="!h.documents.length || h.withdrawnAt" #instead>
        <p v-if="h.withdrawnAt" class="quiet first">{{ t('handout.is-withdrawn') }}</p>
        <div v-else class="first">
          <h2>{{ t('handout.needs-template') }}</h2>
          <p class="quiet">{{ t('handout.needs-template-text') }}</p>
          <TemplatePicker v-if="mayPack" several tall :choose="hand.addDocument" />
          <EarlierHandouts
            v-if="mayPack && !h.packedAt && !h.together.length"
            :key="h.id"
            :class-id="cls.id"
            :handout-id="h.id"
          />
        </div>
      </template>
      <template #acts>
        <Button v-if="!h.packedAt" @click="keep">{{ t('handout.keep') }}</Button>
        <UseAgain v-if="mayPack && h.packedAt" :key="h.id" :class-id="cls.id" :handout-id="h.id" />
        <a :href="`/api/classes/${cls.id}/handouts/${h.id}/file`" download>{{ t('handout-file.save') }}</a>
      </template>
    </PackingSide>
  </div>
</template>

<style scoped>
.first {
  flex: 1;
  min-height: 0;
  overflow-y: auto;
}
@media print {
  .work {
    display: block;
  }
}
</style>
