<script setup lang="ts">
import { useQueries } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useClass } from '@/class/theClass'
import { columnValues } from '@/parts/columnValues'
import { useFieldName } from '@/parts/fieldName'
import PickOne from '@/parts/PickOne.vue'
import { isNotice, type Hand } from './handout'
import { useFilled } from './filled'
import HandoutDocument from './HandoutDocument.vue'
import HandoutDocuments from './HandoutDocuments.vue'
import TemplatePicker from './TemplatePicker.vue'
import { useTogether } from './together'

/** The documents of a handout and the way they are given. */
const props = defineProps<{ hand: Hand }>()
const { h, open, problems, change, addDocument, documents, close } = props.hand
const { cls, classId, mayPack } = useClass()
const { t } = useI18n()
const columnLabel = useFieldName()
const list = (all: string[]) => all.join(', ').replace(/, ([^,]*)$/, `${t('say.and')}$1`)

const notice = computed(() => isNotice(h.value))
const members = useTogether()
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

const { columns: filled } = useFilled(props.hand)

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
    <p>
      <template v-if="!notice"><HandoutDocuments :hand="hand" :levels="levelsThere" />, </template>
      <PickOne
        v-if="mayPack && !h.packedAt"
        class="u-select"
        data-part="way"
        :model-value="h.way"
        :options="ways"
        :label="t('say.way')"
        @update:model-value="(v) => change({ way: v as Of<'Way'> }, 'way')"
      />
      <template v-else>{{ t(`say.way-${h.way}`) }}</template><template
        v-if="h.way === 'by-level' || h.way === 'per-team'"
        >. {{ t(h.way === 'by-level' ? 'say.levels-by' : 'say.teams-by') }}
        <PickOne
          v-if="mayPack && !h.packedAt"
          class="u-select"
          data-part="by"
          :model-value="h.way === 'by-level' ? h.by : h.teams"
          :options="groups"
          :label="t(h.way === 'by-level' ? 'say.levels-by' : 'say.teams-by')"
          @update:model-value="(v) => (h!.way === 'by-level' ? change({ by: v }, 'by') : change({ teams: v }, 'teams'))"
        /><template v-else>{{ columnLabel(h.way === 'by-level' ? h.by : h.teams) }}</template></template
      ><template v-if="filled.length">, {{ t('say.filled', { columns: list(filled) }) }}</template
      >.
    </p>
    <slot />
    <div v-if="open === 'template' && documents.length" class="pop">
      <TemplatePicker several :choose="useTemplate" />
    </div>
    <div v-if="document && mayPack" class="pop">
      <HandoutDocument :hand="hand" :document="document" :columns="columns" />
    </div>
    <p v-if="problems.documents || problems.way || problems.by || problems.teams" class="bad" role="alert">
      {{ problems.documents || problems.way || problems.by || problems.teams }}
    </p>
  </template>
</template>
