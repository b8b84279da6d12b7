<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { useClass } from '@/class/theClass'
import { plainKey, useKeys } from '@/keys'
import { useActing } from '@/parts/acting'
import PickOne from '@/parts/PickOne.vue'
import { moment, wall } from '@/when'
import type { Hand } from './handout'
import { usePens } from './pens'

/** What copies do once they are due, and pens down or up by hand. */
const props = defineProps<{ hand: Hand }>()
const { h, path, problems, change } = props.hand
const { cls, mayPack } = useClass()
const { t } = useI18n()
const { busy, problem, act } = useActing()

const all = computed(() => (cls.value?.students ?? 0) - (h.value?.out.length ?? 0))
const closed = computed(() => {
  const out = new Set(h.value?.out.map((o) => o.row))
  return h.value?.closed.filter((row) => !out.has(row)).length ?? 0
})
const stands = computed(() => {
  const c = h.value?.closing
  if (closed.value && closed.value < all.value) return t('pens.some', { n: closed.value, all: all.value })
  if (!c) return closed.value ? t('pens.all') : ''
  const when = moment(Date.parse(c.at))
  if (!closed.value) return ''
  return c.by ? t('pens.by-hand', { when, who: c.by }) : t('pens.by-itself', { when })
})
const pens = usePens(path, act)
// The key goes to the button that says for how many; pressing that does it.
const acts = useTemplateRef<HTMLElement>('acts')
useKeys((e) => {
  if (plainKey(e) && e.key === 'c') acts.value?.querySelector<HTMLElement>('button')?.focus()
})
</script>

<template>
  <template v-if="h && cls">
    <p v-if="h.due">
      {{ t('say.then') }}
      <PickOne
        v-if="mayPack"
        class="u-select"
        data-part="then"
        :model-value="h.then"
        :options="(['open', 'close'] as const).map((x) => ({ value: x, label: t(`say.then-${x}`) }))"
        :label="t('say.then')"
        @update:model-value="(v) => change({ then: v as 'open' | 'close' }, 'then')"
      /><template v-else>{{ t(`say.then-${h.then}`) }}</template
      >.
    </p>
    <p v-if="problems.then" class="bad" role="alert">{{ problems.then }}</p>
    <p v-if="h.packedAt && !h.withdrawnAt && (stands || mayPack)" ref="acts" class="pens" data-part="pens">
      <template v-if="mayPack">
        <button
          v-if="closed < all"
          class="link"
          data-act="pens-down"
          :disabled="busy"
          :title="t('pens.down-help')"
          @click="pens(true, [], all - closed)"
        >
          {{ t('pens.down', { n: all - closed }, all - closed) }}
        </button>
        <button v-if="closed" class="link" data-act="pens-up" :disabled="busy" @click="pens(false, [], closed)">
          {{ t('pens.up', { n: closed }, closed) }}
        </button>
      </template>
      <span v-if="stands" class="quiet">{{ stands }}</span>
    </p>
    <p v-if="h.extra.length" class="pens quiet" data-part="extra">
      {{
        t('times.extra', {
          names: h.extra
            .map((x) => t(x.always ? 'times.extra-always' : 'times.extra-one', { name: x.name, when: wall(x.until) }))
            .join('; '),
        })
      }}
    </p>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
  </template>
</template>

<style scoped>
.pens {
  font-size: 14.5px;
  display: flex;
  flex-wrap: wrap;
  gap: 0 14px;
}
</style>
