<script setup lang="ts">
import { Button, Checkbox } from 'ant-design-vue'
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, type Of } from '@/api/client'
import { useClasses } from '@/api/queries'
import { keys } from '@/api/keys'
import { useActing } from '@/parts/acting'
import PickOne from '@/parts/PickOne.vue'

/** Makes the handout one for another of one's classes, too: for all of it, or for some. */
const props = defineProps<{ h: Of<'Handout'>; classId: string }>()
const emit = defineEmits<{ added: [classId: string, picked: boolean] }>()
const { t } = useI18n()
const queries = useQueryClient()
const { data: classes } = useClasses()
const offered = computed(() =>
  (classes.value ?? [])
    .filter((c) => c.teach)
    .filter((c) => c.id !== props.classId && !props.h.together.some((p) => p.class === c.id)),
)
const to = ref('')
const picked = ref(false)
const { busy, problem, act } = useActing()
const add = () =>
  act(async () => {
    const [other, some] = [to.value, picked.value]
    await api.POST('/classes/{classId}/handouts/{handoutId}/together', {
      params: { path: { classId: props.classId, handoutId: props.h.id } },
      body: { to: other, picked: some },
    })
    to.value = ''
    await queries.invalidateQueries({ queryKey: keys.handout(props.classId, props.h.id) })
    emit('added', other, some)
  })
</script>

<template>
  <div v-if="offered.length" class="also" data-form="also-for">
    <label
      >{{ t('together.also') }}
      <PickOne
        v-model="to"
        :label="t('together.also')"
        :options="[
          { value: '', label: t('together.no-other') },
          ...offered.map((c) => ({ value: c.id, label: c.name })),
        ]"
    /></label>
    <template v-if="to">
      <Checkbox v-model:checked="picked" data-act="some">{{ t('together.some') }}</Checkbox>
      <Button size="small" type="primary" :loading="busy" data-act="also-for" @click="add">{{
        t('together.add')
      }}</Button>
    </template>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
  </div>
</template>

<style scoped>
.also {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 12px;
  align-items: center;
  border-top: 1px solid var(--thread-2);
  padding-top: 8px;
  margin-top: 4px;
  font-size: 14px;
}
.also p {
  flex-basis: 100%;
  margin: 0;
}
</style>
