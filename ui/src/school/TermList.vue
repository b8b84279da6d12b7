<script setup lang="ts">
import { Button, Checkbox } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { useActing } from '@/parts/acting'
import { carried } from '@/parts/carried'
import { tellDone } from '@/tell'

/** A new term from an open roster archive: which classes it names, with whom, and adding those up that are ticked. */
const emit = defineEmits<{ done: []; close: [] }>()
const { t } = useI18n()
const file = ref<File>()
const look = ref<Of<'Term'>>()
const left = ref<Record<string, boolean>>({}) // unticked
let list = ''
const { busy, problem, act } = useActing()
async function take(e: Event) {
  file.value = (e.target as HTMLInputElement).files?.[0]
  ;(e.target as HTMLInputElement).value = ''
  look.value = undefined
  if (!file.value) return
  await act(async () => {
    list = await carried(file.value!)
    look.value = await data(api.POST('/office/term/preview', { body: { list } }))
    left.value = {}
  })
}
const makes = computed(() => (look.value?.lines ?? []).filter((l) => l.act === 'make'))
const chosen = computed(() => makes.value.filter((l) => !left.value[l.key]))
const students = computed(() => chosen.value.reduce((n, l) => n + l.students, 0))
const bring = () =>
  act(async () => {
    const done = await data(
      api.POST('/office/term', { body: { list, seen: look.value!.seen, classes: chosen.value.map((l) => l.key) } }),
    )
    tellDone(t('term.done', { n: done.classes }, done.classes))
    emit('done')
  })
</script>

<template>
  <section class="term" data-form="term">
    <div class="bar">
      <h2>{{ t('term.title') }}</h2>
      <label class="file"
        >{{ file?.name ?? t('book-list.file') }}<input type="file" accept=".zip" @change="take"
      /></label>
      <button class="link" @click="emit('close')">{{ t('act.cancel') }}</button>
    </div>
    <p class="quiet">{{ t('term.text') }}</p>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
    <template v-if="look">
      <p v-if="!look.lines.length" class="bad">{{ t('term.no-classes') }}</p>
      <p v-if="look.wrong" class="bad">{{ t('term.wrong', { n: look.wrong }, look.wrong) }}</p>
      <table v-if="look.lines.length">
        <tbody>
          <tr v-for="l in look.lines" :key="l.key" :data-term="l.name" :class="l.act">
            <td>
              <Checkbox
                v-if="l.act === 'make'"
                :checked="!left[l.key]"
                @update:checked="(on: boolean) => (left = { ...left, [l.key]: !on })"
                ><b>{{ l.name }}</b></Checkbox
              ><b v-else>{{ l.name }}</b>
              <span v-if="l.period" class="quiet more">{{ t('class.period-n', { period: l.period }) }}</span>
            </td>
            <td>
              {{ l.owner }}<template v-if="l.others.length">, {{ l.others.join(', ') }}</template>
              <span v-if="l.strangers.length" class="attention">
                {{ t('term.strangers', { names: l.strangers.join(', ') }) }}</span
              >
            </td>
            <td class="n">
              {{ t('class.count', { n: l.students }, l.students) }}
              <span v-if="l.unknown" class="attention more">{{ t('term.unknown', { n: l.unknown }) }}</span>
            </td>
            <td class="quiet">{{ t(`term.${l.act}`) }}</td>
          </tr>
        </tbody>
      </table>
      <Button type="primary" :disabled="!chosen.length" :loading="busy" data-act="bring-term" @click="bring">{{
        t('term.bring', { n: chosen.length, k: students }, chosen.length)
      }}</Button>
    </template>
  </section>
</template>

<style scoped>
.term {
  background: var(--sheet);
  border: 1px solid var(--thread);
  border-radius: 8px;
  padding: 14px 18px 16px;
  margin: 12px 0;
}
.bar {
  display: flex;
  gap: 14px;
  align-items: center;
}
.file {
  border: 1px solid var(--thread);
  border-radius: 6px;
  padding: 3px 10px;
  font-weight: 600;
  cursor: pointer;
}
.file:focus-within {
  outline: 2px solid var(--leather);
}
.file input {
  position: absolute;
  opacity: 0;
  width: 1px;
}
table {
  border-collapse: collapse;
  width: 100%;
  margin: 10px 0 14px;
  font-size: 14.5px;
}
td {
  border-top: 1px solid var(--thread-2);
  padding: 5px 12px 5px 0;
  vertical-align: top;
}
.n {
  white-space: nowrap;
}
.more {
  margin-left: 0.4em;
}
.attention {
  color: var(--brass-text);
}
</style>
