<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { api } from '@/api/client'
import { keys } from '@/api/keys'
import { useActing } from '@/parts/acting'
import { tellDone } from '@/tell'
import { ago } from '@/when'
import type { Hand } from './handout'
import { useClass } from '@/class/theClass'
import { inOf, useTogether } from './together'

/** Who will read a notice, and its putting up. */
const props = defineProps<{ hand: Hand; before: () => Promise<boolean> }>()
const { h, path } = props.hand
const { cls, classId, mayPack } = useClass()
const { t } = useI18n()
const queries = useQueryClient()
const members = useTogether()
const inCount = computed(() =>
  [...members.values()].reduce((n, m) => n + inOf(m.cls.value, m.hand.h.value), inOf(cls.value, h.value)),
)
const up = computed(() => !!h.value?.packedAt && !h.value.withdrawnAt)
const ready = computed(
  () => !!h.value?.title && (!!h.value.instructions || !!h.value.links.length) && inCount.value > 0,
)
const { busy, problem, act } = useActing()
async function put() {
  await act(async () => {
    if (!(await props.before())) return
    const pack = { seen: h.value!.list.digest }
    const others = [...members.values()].map((m) => ({ class: m.class, pack: { seen: m.hand.h.value!.list.digest } }))
    if (others.length)
      await api.POST('/classes/{classId}/handouts/{handoutId}/together/pack', {
        params: path.value,
        body: { parts: [{ class: classId.value, pack }, ...others] },
      })
    else await api.POST('/classes/{classId}/handouts/{handoutId}/post', { params: path.value, body: pack })
    tellDone(t('notice.is-up', { n: inCount.value }, inCount.value))
  })
  await queries.invalidateQueries({ queryKey: keys.handout(classId.value) })
}
async function take() {
  await act(async () => {
    await api.POST('/classes/{classId}/handouts/{handoutId}/take-down', { params: path.value })
    tellDone(t('notice.is-down'))
  })
  await queries.invalidateQueries({ queryKey: keys.handout(classId.value) })
}
</script>

<template>
  <section v-if="h" class="side" data-form="notice">
    <h2>{{ t('notice.title') }}</h2>
    <p class="big">{{ t(up ? 'notice.read-by' : 'notice.for', { n: inCount }, inCount) }}</p>
    <p class="quiet">
      {{ t('notice.nothing-made') }} <template v-if="!h.choice.picked">{{ t('notice.later') }}</template>
    </p>
    <p v-if="up" class="quiet">{{ t('notice.since', { when: ago(Date.parse(h.packedAt!), t) }) }}</p>
    <p v-else-if="!ready" class="quiet">{{ t('notice.lacks') }}</p>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
    <span class="grow" />
    <div class="foot">
      <Button v-if="!up" type="primary" :disabled="!ready || !mayPack" :loading="busy" data-act="post" @click="put">{{
        t('notice.put-up', { n: inCount }, inCount)
      }}</Button>
      <Button v-else :disabled="!mayPack" :loading="busy" data-act="take-down" @click="take">{{
        t('notice.take-down')
      }}</Button>
      <slot name="acts" />
    </div>
  </section>
</template>

<style scoped>
.side {
  background: var(--sheet);
  border-left: 1px solid var(--thread);
  margin-top: 10px;
  padding: 14px 24px 0;
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.side p {
  margin: 0;
}
.big {
  font-size: 20px;
  font-weight: 600;
}
.grow {
  flex: 1;
}
.foot {
  border-top: 1px solid var(--thread);
  margin: 0 -24px;
  padding: 12px 24px;
  display: flex;
  align-items: center;
  gap: 12px;
  font-size: 14px;
}
</style>
