<script setup lang="ts">
import { Popover, Radio, RadioGroup } from 'ant-design-vue'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useClass } from '@/class/theClass'
import PickOne from '@/parts/PickOne.vue'
import type { Hand } from './handout'
import { inOf, useTogether } from './together'
import type { Folds } from './usual'

/** What those a handout is for may do with it, what classmates may, and whom a student may let in. */
const props = defineProps<{ hand: Hand; folds: Folds }>()
const { h, open, problems, change, documents } = props.hand
const { cls, mayPack } = useClass()
const { t } = useI18n()

const members = useTogether()
const inCount = computed(() =>
  [...members.values()].reduce((n, m) => n + inOf(m.cls.value, m.hand.h.value), inOf(cls.value, h.value)),
)
const levels = ['edit', 'comment', 'read'] as const
// Nobody can be let do more than whose copy it is.
const passings = computed(() => {
  const all = ['nothing', 'read', 'comment', 'edit'] as const
  return all.slice(0, 1 + Math.max(all.indexOf(h.value?.level ?? 'edit'), all.indexOf(h.value?.passing ?? 'nothing')))
})
</script>

<template>
  <template v-if="h && cls">
    <p>
      {{ t(`say.who-${h.way}`) }}
      <Popover
        trigger="click"
        :open="open === 'level'"
        placement="bottomLeft"
        @open-change="(o: boolean) => (open = o ? 'level' : '')"
      >
        <template #content>
          <RadioGroup
            :value="h.level"
            class="levels"
            @update:value="
              (v: string) => {
                open = ''
                void change({ level: v }, 'level')
              }
            "
          >
            <Radio v-for="l in levels" :key="l" :value="l"
              >{{ t(`level.${l}`) }}<span class="quiet help">{{ t(`level-help.${l}`) }}</span></Radio
            >
          </RadioGroup>
        </template>
        <button class="plain u" :disabled="!mayPack" data-part="level">{{ t(`level.${h.level}`) }}</button>
      </Popover>
      {{
        h.way === 'one-for-all' && documents.length > 1
          ? t('say.whose-several-for-all', { n: inCount, k: documents.length })
          : t(`say.whose-${h.way}`, { n: inCount }, inCount)
      }}
      <template v-if="h.way !== 'one-for-all'">
        {{ t(h.way === 'per-team' ? 'say.other-teams' : 'say.classmates') }}
        <PickOne
          v-if="mayPack"
          class="u-select"
          data-part="classmates"
          :model-value="h.classmates"
          :options="(['nothing', 'read', 'comment'] as const).map((l) => ({ value: l, label: t(`say.mates-${l}`) }))"
          :label="t(h.way === 'per-team' ? 'say.other-teams' : 'say.classmates')"
          @update:model-value="(v) => change({ classmates: v }, 'classmates')"
        /><template v-else>{{ t(`say.mates-${h.classmates}`) }}</template
        >.
      </template>
    </p>
    <p v-if="problems.classmates || problems.passing" class="bad" role="alert">
      {{ problems.classmates || problems.passing }}
    </p>
    <p v-if="(h.way === 'one-each' || h.way === 'by-level') && !folds('passing')">
      {{ t('say.pass') }}
      <PickOne
        v-if="mayPack"
        class="u-select"
        data-part="passing"
        :model-value="h.passing"
        :options="passings.map((l) => ({ value: l, label: t(`say.pass-${l}`) }))"
        :label="t('say.pass')"
        @update:model-value="(v) => change({ passing: v }, 'passing')"
      /><template v-else>{{ t(`say.pass-${h.passing}`) }}</template
      >.
    </p>
    <p v-if="h.passing !== 'nothing'" class="quiet note" data-reach>
      {{ t('say.pass-reach', { n: cls.students - 1 }) }}
    </p>
  </template>
</template>

<style scoped>
.levels {
  display: grid;
  gap: 8px;
}
.help {
  display: block;
  font-size: 13.5px;
}
</style>
