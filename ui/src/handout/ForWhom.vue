<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { api } from '@/api/client'
import { keys } from '@/api/keys'
import { useClass } from '@/class/theClass'
import { tellProblem } from '@/tell'
import AlsoFor from './AlsoFor.vue'
import type { Hand } from './handout'
import { inOf, useTogether } from './together'
import WhoPart from './WhoPart.vue'

/** Whom a handout is for: in this class and in others of the same staff. */
const props = defineProps<{ hand: Hand }>()
const { h, path, open } = props.hand
const { cls, classId, mayPack } = useClass()
const { t } = useI18n()
const queries = useQueryClient()

const members = useTogether()
const inOwn = computed(() => inOf(cls.value, h.value))
const outCount = computed(() =>
  [...members.values()].reduce((n, m) => n + (m.hand.h.value?.out.length ?? 0), h.value?.out.length ?? 0),
)
const strange = computed(() => (h.value?.together ?? []).filter((p) => !p.yours).map((p) => p.name))
const who = computed(() => members.get(open.value.replace('who-', '')))
const asked = (n: number, name: string) => t('say.students-of', { n, class: name }, n)
async function notFor(other: string) {
  open.value = ''
  try {
    await api.DELETE('/classes/{classId}/handouts/{handoutId}/together/{otherId}', {
      params: { path: { ...path.value.path, otherId: other } },
    })
  } catch (e) {
    tellProblem(e)
  }
  await queries.invalidateQueries({ queryKey: keys.handout(classId.value) })
}
</script>

<template>
  <template v-if="h && cls">
    <p>
      <button
        class="plain u"
        :class="{ on: open === 'who' }"
        :disabled="!mayPack"
        data-part="who"
        @click="open = open === 'who' ? '' : 'who'"
      >
        {{ asked(inOwn, cls.name) }}</button><template v-for="m in members.values()" :key="m.class"
        >{{ t('say.and')
        }}<button
          class="plain u"
          :class="{ on: open === `who-${m.class}` }"
          :data-part="`who-${m.code}`"
          @click="open = open === `who-${m.class}` ? '' : `who-${m.class}`"
        >
          {{ asked(inOf(m.cls.value, m.hand.h.value), m.name) }}
        </button></template
      ><template v-for="n in strange" :key="n">{{ t('say.and') }}{{ t('together.not-yours', { name: n }) }}</template
      >. <template v-if="outCount">{{ t('say.sit-out', { n: outCount }, outCount) }}</template>
    </p>
    <WhoPart v-if="open === 'who'" :hand="hand" :cls="cls">
      <AlsoFor :h="h" :class-id="classId" @added="(other, picked) => (open = picked ? `who-${other}` : '')" />
      <button v-if="h.together.length" class="link" data-act="not-together" @click="notFor(classId)">
        {{ t('together.alone', { class: cls.name }) }}
      </button>
    </WhoPart>
    <WhoPart v-else-if="who?.cls.value && who.hand.h.value" :key="who.class" :hand="who.hand" :cls="who.cls.value">
      <button class="link" data-act="not-for" @click="notFor(who.class)">
        {{ t(who.hand.h.value?.packedAt ? 'together.alone' : 'together.not', { class: who.name }) }}
      </button>
    </WhoPart>
  </template>
</template>
