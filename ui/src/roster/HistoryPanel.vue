<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { useQuery } from '@tanstack/vue-query'
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, ProblemError, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { sentence } from '@/tell'
import { ago, exact } from '@/when'
import { useFieldName } from '@/parts/fieldName'

/** Every change of the class list, with the way back. */
const props = defineProps<{ classId: string; mayChange: boolean }>()
const emit = defineEmits<{ undone: []; list: [Of<'Draft'>] }>()
const { t } = useI18n()
const fieldName = useFieldName()
const { data: history, refetch } = useQuery({
  queryKey: keys.rosterHistory(props.classId),
  queryFn: () => data(api.GET('/classes/{classId}/roster/history', { params: { path: { classId: props.classId } } })),
})
const problem = ref<{ batch: string; text: string; packed: boolean } | null>(null)
const path = (batch: string) => ({ path: { classId: props.classId, batch } })
async function undo(batch: string) {
  problem.value = null
  try {
    await api.POST('/classes/{classId}/roster/history/{batch}/undo', { params: path(batch) })
    emit('undone')
    await refetch()
  } catch (e) {
    problem.value = { batch, text: sentence(e), packed: e instanceof ProblemError && e.code === 'packed-since' }
  }
}
async function asList(batch: string) {
  try {
    emit('list', await data(api.POST('/classes/{classId}/roster/history/{batch}/list', { params: path(batch) })))
  } catch (e) {
    problem.value = { batch, text: sentence(e), packed: false }
  }
}
</script>

<template>
  <div class="history">
    <h2>{{ t('history.title') }}</h2>
    <p v-if="history?.length === 0" class="quiet">{{ t('history.none') }}</p>
    <section v-for="h in history" :key="h.batch" :class="{ undone: h.undone }" :data-history="h.kind">
      <strong>{{ t(`history.${h.kind}`) }}</strong><span v-if="h.source" class="quiet source">{{ h.source }}</span>
      <p class="faint" :title="exact(h.at)">
        {{ t('history.by', { when: ago(h.at, t), who: h.by })
        }}<template v-if="h.undone"> · {{ t('history.was-undone') }}</template>
      </p>
      <ul>
        <li v-for="(c, i) in h.changes" :key="i">
          <bdi>{{ c.name }}</bdi> <span class="quiet">{{ t(`history.what-${c.what}`) }}</span>
          <span v-for="f in c.fields" :key="f.field" class="field"
            >{{ fieldName(f.field) }} <s v-if="f.from">{{ f.from }}</s> →
            <b>{{ f.to || t('compare.nothing') }}</b></span
          >
        </li>
        <li v-if="h.more" class="faint">{{ t('history.more', { n: h.more }) }}</li>
      </ul>
      <p v-if="problem?.batch === h.batch" class="bad" role="alert">{{ problem.text }}</p>
      <span v-if="mayChange && h.undoable" class="acts">
        <Button
          v-if="!(problem?.batch === h.batch && problem.packed)"
          size="small"
          data-act="undo"
          @click="undo(h.batch)"
          >{{ t('history.undo') }}</Button
        >
        <Button v-else size="small" data-act="as-list" @click="asList(h.batch)">{{ t('history.as-list') }}</Button>
      </span>
    </section>
  </div>
</template>

<style scoped>
.history {
  display: grid;
  gap: 4px;
  align-content: start;
}
section {
  border-top: 1px solid var(--thread-2);
  padding: 9px 0;
}
section.undone {
  opacity: 0.7;
}
strong {
  font-weight: 650;
}
.source {
  margin-left: 8px;
}
section p {
  font-size: 13px;
}
ul {
  list-style: none;
  margin: 3px 0 6px;
  padding: 0;
  font-size: 14px;
}
.field {
  margin-right: 8px;
  overflow-wrap: anywhere;
}
.field b {
  font-weight: 600;
}
s {
  color: var(--ink-3);
}
</style>
