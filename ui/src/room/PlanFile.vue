<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref, useTemplateRef } from 'vue'
import { useI18n } from 'vue-i18n'
import { ProblemError, type Of } from '@/api/client'
import { useFieldName } from '@/parts/fieldName'
import PickOne from '@/parts/PickOne.vue'
import { sentence, tellDone } from '@/tell'
import { useClass } from '@/class/theClass'

/** Saves something as a file and takes one that was saved; columns this class hasn't are asked about. */
const props = defineProps<{
  columns: string[]
  /** Where it is saved from; none: it is only taken. */
  saved?: string
  read: (body: Of<'PlanFile'>) => Promise<unknown>
  words: 'plan-file' | 'handout-file'
}>()
const { mayPack } = useClass()
const { t } = useI18n()
const fieldName = useFieldName()
const input = useTemplateRef<HTMLInputElement>('input')
const text = ref('')
const asked = ref<string[]>([])
const answers = ref<Record<string, string>>({})
const problem = ref('')
const options = computed(() => [
  { value: '', label: t('plan-file.nothing') },
  ...props.columns.map((c) => ({ value: c, label: fieldName(c) })),
])
async function chosen() {
  const file = input.value?.files?.[0]
  if (!file) return
  asked.value = []
  answers.value = {}
  if (file.size > 1 << 20) return (problem.value = t('problem.too-large'))
  text.value = await file.text()
  input.value!.value = ''
  await take()
}
async function take() {
  problem.value = ''
  try {
    await props.read({ file: text.value, columns: answers.value })
    asked.value = []
    tellDone(t(`${props.words}.done`))
  } catch (e) {
    if (e instanceof ProblemError && e.code === 'columns-unknown') {
      asked.value = Object.keys(e.args)
        .filter((k) => /^\d+$/.test(k))
        .map((k) => e.args[k])
      for (const column of asked.value) answers.value[column] ??= ''
      return
    }
    problem.value = sentence(e)
  }
}
</script>

<template>
  <div>
    <div class="row">
      <Button v-if="saved" size="small" :href="saved" download>{{ t(`${words}.save`) }}</Button>
      <Button v-if="mayPack" size="small" data-act="read-plan" @click="input?.click()">{{
        t('plan-file.read')
      }}</Button>
      <input ref="input" type="file" accept=".json,application/json" hidden data-file="plan" @change="chosen" />
    </div>
    <form v-if="asked.length" class="asked" data-form="columns" @submit.prevent="take">
      <p>{{ t('plan-file.asked') }}</p>
      <label v-for="c in asked" :key="c">
        <b>{{ c }}</b>
        <PickOne
          :model-value="answers[c] ?? ''"
          :options="options"
          :label="t('plan-file.stands-for', { column: c })"
          @update:model-value="(v) => (answers = { ...answers, [c]: v })"
        />
      </label>
      <Button size="small" type="primary" html-type="submit">{{ t('plan-file.take') }}</Button>
    </form>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
  </div>
</template>

<style scoped>
.row {
  display: flex;
  gap: 8px;
}
.asked {
  display: grid;
  gap: 7px;
  margin-top: 8px;
  justify-items: start;
}
.asked label {
  display: grid;
  grid-template-columns: 130px 220px;
  gap: 8px;
}
</style>
