<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useActing } from '@/parts/acting'
import PickOne from '@/parts/PickOne.vue'
import { tellDone } from '@/tell'

/** Extra time that students have in every handout of the class. */
const props = defineProps<{ classId: string; rows: string[]; now?: Of<'StandingExtra'> }>()
const emit = defineEmits<{ done: [] }>()
const { t } = useI18n()
const queries = useQueryClient()
const unit = ref<'percent' | 'minutes'>(props.now?.minutes ? 'minutes' : 'percent')
const much = ref(props.now?.minutes || props.now?.percent || 25)
const n = computed(() => props.rows.length)
const { busy, problem, act } = useActing()
const give = (extra: { minutes?: number; percent?: number }) =>
  act(async () => {
    const path = { classId: props.classId }
    await api.PUT('/classes/{classId}/extra-time', { params: { path }, body: { rows: props.rows, ...extra } })
    await Promise.all(
      [keys.register(props.classId), keys.panel(props.classId), keys.handout(props.classId)].map((queryKey) =>
        queries.invalidateQueries({ queryKey }),
      ),
    )
    const given = !!(extra.minutes || extra.percent)
    tellDone(t(given ? 'times.always-given' : 'times.always-taken', { n: n.value }, n.value))
    emit('done')
  })
</script>

<template>
  <form class="standing" data-form="standing" @submit.prevent="give({ [unit]: much })">
    <p class="quiet">{{ t('times.always-help') }}</p>
    <div class="acts">
      <PickOne
        v-model="unit"
        :label="t('times.unit')"
        :options="(['percent', 'minutes'] as const).map((u) => ({ value: u, label: t(`times.${u}`) }))"
      />
      <input
        v-model.number="much"
        type="number"
        min="1"
        :max="unit === 'percent' ? 1000 : 86400"
        class="much"
        required
        :aria-label="t(`times.${unit}`)"
        data-field="always"
      />
    </div>
    <div class="acts">
      <Button size="small" type="primary" html-type="submit" :loading="busy" data-act="give-always">{{
        t('times.give', { n }, n)
      }}</Button>
      <Button v-if="now || n > 1" size="small" :disabled="busy" data-act="take-always" @click="give({})">{{
        t('times.take')
      }}</Button>
    </div>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
  </form>
</template>

<style scoped>
.standing {
  display: grid;
  gap: 8px;
  border: 1.5px solid var(--thread);
  border-radius: 8px;
  padding: 10px 14px;
  margin: 6px 0;
}
.standing p {
  margin: 0;
}
.acts {
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
}
.much {
  font: inherit;
  width: 6em;
  color: var(--ink);
  background: var(--sheet);
  border: 1px solid var(--line-field);
  border-radius: 5px;
  padding: 2px 6px;
}
</style>
