<script setup lang="ts">
import { Button, Checkbox, Textarea } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { useActing } from '@/parts/acting'
import { carried } from '@/parts/carried'
import PickOne from '@/parts/PickOne.vue'
import { tellDone } from '@/tell'

/** A list of the school's people, pasted or as a file: what it would do to the school book, then having it done. */
const emit = defineEmits<{ done: []; close: [] }>()
const { t } = useI18n()
const role = ref<'student' | 'staff'>('student')
const text = ref('')
const file = ref<File>()
const look = ref<Of<'BookList'>>()
const away = ref(false)
watch([role, text], () => (look.value = undefined))
const { busy, problem, act } = useActing()
let list = ''
const read = () =>
  act(async () => {
    look.value = undefined
    list = await carried(file.value ?? new Blob([text.value]))
    look.value = await data(api.POST('/book/list/preview', { body: { role: role.value, list } }))
  })
async function take(e: Event) {
  file.value = (e.target as HTMLInputElement).files?.[0]
  ;(e.target as HTMLInputElement).value = ''
  if (file.value) await read()
}
const count = (a: string) => look.value?.counts[a] ?? 0
const n = computed(() => count('enter') + count('change') + (away.value ? count('leave') : 0))
const bring = () =>
  act(async () => {
    const done = await data(
      api.POST('/book/list', { body: { role: role.value, list, seen: look.value!.seen, away: away.value } }),
    )
    tellDone(t('book-list.done', { n: done.accounts }, done.accounts))
    emit('done')
  })
</script>

<template>
  <section class="list" data-form="book-list">
    <div class="bar">
      <h2>{{ t('book-list.title') }}</h2>
      <PickOne
        :model-value="role"
        :label="t('book.role')"
        :options="(['student', 'staff'] as const).map((r) => ({ value: r, label: t(`book.role-${r}`) }))"
        @update:model-value="(v) => (role = v as 'student' | 'staff')"
      />
      <label class="file"
        >{{ file?.name ?? t('book-list.file')
        }}<input type="file" accept=".csv,.tsv,.txt,.xlsx,.xlsm,.ods,.zip,text/*" @change="take"
      /></label>
      <button class="link" @click="emit('close')">{{ t('act.cancel') }}</button>
    </div>
    <p class="quiet">{{ t('book-list.text') }}</p>
    <Textarea
      v-model:value="text"
      v-focus
      :auto-size="{ minRows: 3, maxRows: 8 }"
      :placeholder="t('book-list.paste')"
      :aria-label="t('book-list.paste')"
      @change="file = undefined"
    />
    <Button v-if="!look" :disabled="!text.trim() && !file" :loading="busy" data-act="look-list" @click="read">{{
      t('book-list.look')
    }}</Button>
    <template v-else>
      <p class="counts" aria-live="polite">
        <b v-for="a in ['enter', 'change', 'same', 'leave', 'wrong']" :key="a" :data-count="a" :class="a"
          >{{ count(a) }} {{ t(`book-list.${a}`) }}</b
        >
      </p>
      <Checkbox v-if="count('leave')" v-model:checked="away" data-act="away">{{
        t('book-list.away', { n: count('leave') }, count('leave'))
      }}</Checkbox>
      <table>
        <tbody>
          <tr v-for="(l, i) in look.lines.filter((x) => x.act !== 'same')" :key="i" :class="l.act" :data-line="l.act">
            <td class="row">{{ l.row || '' }}</td>
            <td>{{ t(`book-list.${l.act}`) }}</td>
            <td>
              <bdi>{{ l.name }}</bdi> {{ l.address }}
            </td>
            <td class="quiet">{{ l.why ?? (l.was ? t('book-list.was', { was: l.was }) : '') }}</td>
          </tr>
        </tbody>
      </table>
      <Button type="primary" :disabled="!n" :loading="busy" data-act="bring-list" @click="bring">{{
        t('book-list.bring', { n }, n)
      }}</Button>
    </template>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
  </section>
</template>

<style scoped>
.list {
  background: var(--sheet);
  border: 1px solid var(--thread);
  border-radius: 8px;
  padding: 14px 18px;
  margin-bottom: 16px;
  display: grid;
  gap: 10px;
  justify-items: start;
}
.list > p,
h2 {
  margin: 0;
}
.bar {
  display: flex;
  gap: 14px;
  align-items: baseline;
  flex-wrap: wrap;
}
.file {
  color: var(--tide);
  text-decoration: underline;
  cursor: pointer;
  position: relative;
}
.file input {
  position: absolute;
  inset: 0;
  opacity: 0;
  width: 100%;
  cursor: pointer;
}
.file:focus-within {
  outline: 2px solid var(--leather);
}
.counts {
  display: flex;
  gap: 16px;
}
.enter {
  color: var(--moss);
}
b.wrong,
tr.wrong td {
  color: var(--brick);
}
table {
  border-collapse: collapse;
  font-size: 14px;
  width: 100%;
  display: block;
  max-height: 320px;
  overflow: auto;
}
td {
  border-bottom: 1px solid var(--thread-2);
  padding: 3px 12px 3px 0;
  overflow-wrap: anywhere;
}
.row {
  color: var(--ink-3);
  font-variant-numeric: tabular-nums;
}
</style>
