<script setup lang="ts">
import { useQueries, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useClass } from '@/class/theClass'
import { columnValues } from '@/parts/columnValues'
import { useFieldName } from '@/parts/fieldName'
import PickOne from '@/parts/PickOne.vue'
import { tellProblem } from '@/tell'
import AlsoFor from './AlsoFor.vue'
import { isNotice, isShared, type Hand } from './handout'
import HandoutDocument from './HandoutDocument.vue'
import HandoutDocuments from './HandoutDocuments.vue'
import TemplatePicker from './TemplatePicker.vue'
import { inOf, useTogether } from './together'
import WhoPart from './WhoPart.vue'

/** The documents of a handout, in which way they are given, and whom they are for: in this class and in others of the same staff. */
const props = defineProps<{ hand: Hand }>()
const { h, path, open, problems, change, addDocument, documents, close } = props.hand
const { cls, classId, mayPack } = useClass()
const { t } = useI18n()
const queries = useQueryClient()
const columnLabel = useFieldName()

const notice = computed(() => isNotice(h.value))
const members = useTogether()
const inOwn = computed(() => inOf(cls.value, h.value))
const outCount = computed(() =>
  [...members.values()].reduce((n, m) => n + (m.hand.h.value?.out.length ?? 0), h.value?.out.length ?? 0),
)
const strange = computed(() => (h.value?.together ?? []).filter((p) => !p.yours).map((p) => p.name))
const who = computed(() => members.get(open.value.replace('who-', '')))
const asked = (n: number, name: string) => t(isShared(h.value) ? 'say.all-of' : 'say.each-of', { n, class: name }, n)
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
// Levels that a document can be for: of all the classes it is for.
const rosters = useQueries({
  queries: computed(() =>
    (h.value?.way === 'by-level' ? [classId.value, ...members.keys()] : []).map((id) => ({
      queryKey: keys.roster(id),
      queryFn: () => data(api.GET('/classes/{classId}/roster', { params: { path: { classId: id } } })),
    })),
  ),
})
const levelsThere = computed(() =>
  columnValues(
    rosters.value.flatMap((r) => r.data ?? []),
    h.value?.by || 'level',
  ),
)

async function useTemplate(id: string) {
  close('template')
  await addDocument(id)
}
const ways = computed(() =>
  (['one-each', 'by-level', 'per-team', 'one-for-all', 'notice'] as const).map((w) => ({
    value: w,
    label: t(`say.way-${w}`),
  })),
)
// The document that is looked at, and columns that can say a level or a team.
const document = computed(() => documents.value.find((d) => open.value === `doc-${d.slot}`))
const columns = computed(() => cls.value?.columns.map((c) => c.field) ?? [])
const groups = computed(() =>
  columns.value
    .filter((f) => f === 'level' || f === 'team' || f.startsWith('extra:'))
    .map((f) => ({ value: f, label: columnLabel(f) })),
)
</script>

<template>
  <template v-if="h && cls">
    <p class="line">
      {{ t('say.give') }}
      <template v-if="!notice"
        ><HandoutDocuments :hand="hand" :levels="levelsThere" />
        {{ t('say.as') }}
      </template>
      <PickOne
        v-if="mayPack && !h.packedAt"
        class="u-select"
        data-part="way"
        :model-value="h.way"
        :options="ways"
        :label="t('say.as')"
        @update:model-value="(v) => change({ way: v as Of<'Way'> }, 'way')"
      />
      <template v-else>{{ t(`say.way-${h.way}`) }}</template>
      {{ t('say.for') }}
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
      ><template v-if="outCount">; {{ t('say.sit-out', { n: outCount }, outCount) }}</template
      >.
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
    <div v-if="open === 'template'" class="pop"><TemplatePicker several :choose="useTemplate" /></div>
    <div v-if="document && mayPack" class="pop">
      <HandoutDocument :hand="hand" :document="document" :columns="columns" />
    </div>
    <p v-if="problems.documents || problems.way || problems.by || problems.teams" class="line bad" role="alert">
      {{ problems.documents || problems.way || problems.by || problems.teams }}
    </p>
    <p v-if="h.way === 'by-level' || h.way === 'per-team'" class="line">
      {{ t(h.way === 'by-level' ? 'say.levels-by' : 'say.teams-by') }}
      <PickOne
        v-if="mayPack && !h.packedAt"
        class="u-select"
        data-part="by"
        :model-value="h.way === 'by-level' ? h.by : h.teams"
        :options="groups"
        :label="t(h.way === 'by-level' ? 'say.levels-by' : 'say.teams-by')"
        @update:model-value="(v) => (h!.way === 'by-level' ? change({ by: v }, 'by') : change({ teams: v }, 'teams'))"
      /><template v-else>{{ columnLabel(h.way === 'by-level' ? h.by : h.teams) }}</template
      >.
    </p>
  </template>
</template>
