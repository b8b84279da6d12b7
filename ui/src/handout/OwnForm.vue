<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useActing } from '@/parts/acting'
import PatternField from '@/parts/PatternField.vue'
import PickOne from '@/parts/PickOne.vue'
import { tellDone } from '@/tell'
import { useClass } from '@/class/theClass'

/** What chosen students can do, and a name and a place that their copies have of their own: said here, looked at and packed on the handout's page. */
const props = defineProps<{ classId: string; handoutId: string; rows: string[] }>()
const { cls } = useClass()
const { t } = useI18n()
const router = useRouter()
const queries = useQueryClient()
const path = computed(() => ({ classId: props.classId, handoutId: props.handoutId }))
const { data: h } = useQuery({
  queryKey: computed(() => keys.handout(props.classId, props.handoutId)),
  queryFn: () => data(api.GET('/classes/{classId}/handouts/{handoutId}', { params: { path: path.value } })),
})
const name = ref<Of<'Part'>[]>([])
const pocket = ref('')
const level = ref<Of<'AccessLevel'>>('edit')
// What several have together has one name and place, and each of them can do something else with it.
const alone = computed(() => h.value?.way === 'one-each' || h.value?.way === 'by-level')
const levelNow = computed(() => {
  const own = h.value?.levels.filter((x) => props.rows.includes(x.row)) ?? []
  return own.length === props.rows.length && own.every((x) => x.level === own[0].level) ? own[0].level : h.value?.level
})
watch(
  h,
  (x) => {
    if (!x || name.value.length) return
    name.value = x.name
    pocket.value = x.pocket
    level.value = levelNow.value ?? x.level
  },
  { immediate: true },
)
const same = computed(() => h.value && JSON.stringify(name.value) === JSON.stringify(h.value.name))
const { busy, problem, act } = useActing()
const change = (own: Of<'OwnParts'>) =>
  act(async () => {
    await api.PATCH('/classes/{classId}/handouts/{handoutId}', {
      params: { path: path.value },
      body: { to: { own }, was: {} },
    })
    await queries.invalidateQueries({ queryKey: keys.handout(props.classId, props.handoutId) })
    tellDone(t('own.said', { n: props.rows.length }, props.rows.length))
    void router.push({ name: 'handout', params: path.value })
  })
const say = () =>
  change({
    rows: props.rows,
    ...(same.value ? {} : { name: name.value }),
    ...(pocket.value === h.value?.pocket ? {} : { pocket: pocket.value }),
    ...(level.value === levelNow.value ? {} : { level: level.value }),
  })
</script>

<template>
  <form v-if="h && cls" class="own" data-form="own" @submit.prevent="say">
    <label
      >{{ t('own.level') }}
      <PickOne
        v-model="level"
        :label="t('own.level')"
        :options="['read', 'comment', 'edit'].map((l) => ({ value: l, label: t(`level.${l}`) }))"
    /></label>
    <template v-if="alone">
      <span>{{ t('own.name') }}</span>
      <PatternField v-model="name" :columns="cls.columns.map((c) => c.field)" />
    </template>
    <label v-if="alone && cls.pockets.length"
      >{{ t('own.place') }}
      <PickOne
        v-model="pocket"
        :label="t('own.place')"
        :options="[
          { value: '', label: t('say.satchel') },
          ...cls.pockets.map((p) => ({ value: p.id, label: t('say.satchel-pocket', { pocket: p.name }) })),
        ]"
    /></label>
    <p class="quiet">{{ t('own.help') }}</p>
    <div class="acts">
      <Button
        size="small"
        type="primary"
        html-type="submit"
        :loading="busy"
        :disabled="same && pocket === h.pocket && level === levelNow"
        data-act="own"
        >{{ t('own.say', { n: rows.length }, rows.length) }}</Button
      >
      <Button
        v-if="rows.some((r) => h!.own.includes(r) || h!.levels.some((x) => x.row === r))"
        size="small"
        :disabled="busy"
        data-act="own-alike"
        @click="change({ rows, alike: true })"
        >{{ t('own.alike') }}</Button
      >
    </div>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
  </form>
</template>

<style scoped>
.own {
  display: grid;
  gap: 8px;
  border-left: 3px solid var(--tide-soft);
  padding-left: 10px;
}
.own p {
  margin: 0;
}
.acts {
  display: flex;
  gap: 8px;
}
</style>
