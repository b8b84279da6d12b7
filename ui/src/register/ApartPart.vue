<script setup lang="ts">
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { useClass } from '@/class/theClass'
import StandingForm from '@/handout/StandingForm.vue'
import { now } from '@/me'
import { useActing } from '@/parts/acting'
import { usePlacePens } from '@/room/placePens'
import { moment, wall } from '@/when'

/** In the panel: what is another for this student than for the others, and closing of the satchel. */
const props = defineProps<{ panel: Of<'Panel'>; thing: Of<'PanelThing'> }>()
const { t } = useI18n()
const { classId, mayPack } = useClass()
const { busy, problem, act } = useActing()
const pens = usePlacePens(classId, act)
const closed = computed(() => {
  const c = props.thing.closing
  return c && Date.parse(c.at) <= now() ? c : undefined
})
const lines = computed(() => {
  const { thing: x, panel } = props
  const out: string[] = []
  if (x.level) out.push(t('panel.own-level', { level: t(`level.${x.level}`) }))
  if (x.extra) out.push(t('panel.extra', { when: wall(x.extra) }))
  if (x.closing) {
    const when = moment(Date.parse(x.closing.at))
    const by = closed.value && x.closing.by
    out.push(by ? t('panel.closed-by', { when, who: by }) : t(closed.value ? 'panel.closed' : 'panel.closes', { when }))
  }
  const always = panel.extra
  if (!x.handout && always)
    out.push(
      always.percent
        ? t('panel.always-percent', { n: always.percent })
        : t('panel.always-minutes', { n: always.minutes }),
    )
  return out
})
const changing = ref(false) // the extra time in every handout
</script>

<template>
  <div v-if="lines.length || (mayPack && !thing.handout && thing.thing)" class="apart" data-part="apart">
    <p v-for="l in lines" :key="l">{{ l }}</p>
    <p v-if="mayPack && !thing.handout && thing.thing" class="acts">
      <button
        class="link"
        :disabled="busy"
        :data-act="closed ? 'open-satchel' : 'close-satchel'"
        :title="t('pens.down-help')"
        @click="pens('cloakroom', !closed, [panel.row])"
      >
        {{ t(closed ? 'panel.open-again' : 'panel.close') }}
      </button>
      <RouterLink :to="{ name: 'doors', params: { classId }, query: { student: panel.row } }" data-act="doors-of">{{
        t('panel.doors')
      }}</RouterLink>
      <button class="link" :aria-expanded="changing" data-act="always" @click="changing = !changing">
        {{ t('times.always') }}
      </button>
    </p>
    <StandingForm
      v-if="changing && !thing.handout"
      :class-id="classId"
      :rows="[panel.row]"
      :now="panel.extra"
      @done="changing = false"
    />
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
  </div>
</template>

<style scoped>
.apart {
  margin-top: 10px;
  font-size: 14px;
}
.apart p {
  margin: 0 0 3px;
}
.acts {
  display: flex;
  gap: 4px 14px;
  flex-wrap: wrap;
  align-items: center;
}
.acts > * {
  min-height: 24px;
}
</style>
