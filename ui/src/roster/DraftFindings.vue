<script setup lang="ts">
import { Button, Checkbox } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { rowsOf } from './draftRows'

/** What is doubtful in a list: each with why, and what can be done about it at once. */
const props = defineProps<{
  draft: Of<'Draft'>
  errors: Of<'Finding'>[]
  warnings: Of<'Finding'>[]
  out: Of<'Finding'>[]
}>()
const emit = defineEmits<{ change: [Of<'DraftChange'>[]]; go: [Of<'Finding'>] }>()
const { t } = useI18n()
// Many of one kind are told once, with the rest behind a word.
const opened = ref<string[]>([])
const kinds = computed(() => {
  const groups = new Map<string, Of<'Finding'>[]>()
  for (const f of [...props.errors, ...props.warnings]) groups.set(f.code, [...(groups.get(f.code) ?? []), f])
  return [...groups].map(([code, all]) => ({
    code,
    all,
    shown: all.length <= 4 || opened.value.includes(code) ? all : all.slice(0, 3),
  }))
})
const cellOf = (row: number, field: number) => rowsOf(props.draft).find((r) => r.line === row)?.cells[field] ?? ''
const suggested = (all: Of<'Finding'>[]) =>
  all
    .filter((f) => f.args.suggestion && f.field >= 0)
    .map((f) => ({ cell: { row: f.row, field: f.field, value: f.args.suggestion }, was: cellOf(f.row, f.field) }))
const words = (f: Of<'Finding'>, what: 'title' | 'text' | 'remedy') => t(`finding.${f.code}.${what}`, f.args ?? {})
</script>

<template>
  <div>
    <template v-for="k in kinds" :key="k.code">
      <Button
        v-if="suggested(k.all).length > 1"
        class="all"
        size="small"
        data-act="use-all"
        @click="emit('change', suggested(k.all))"
        >{{ t('draft.use-all', { n: suggested(k.all).length, title: words(k.all[0], 'title') }) }}</Button
      >
      <Button
        v-if="k.code === 'hidden-row' && k.all.length > 1"
        class="all"
        size="small"
        data-act="take-in-all"
        @click="
          emit(
            'change',
            k.all.map((f) => ({ leftOut: { row: f.row, out: false } })),
          )
        "
        >{{ t('draft.take-in-all', { n: k.all.length }) }}</Button
      >
      <div v-for="(f, i) in k.shown" :key="i" class="fd" :class="f.severity" :data-finding="f.code">
        <button v-if="f.code !== 'no-address-column'" class="link where" @click="emit('go', f)">
          {{ f.code === 'same-name' ? t('draft.rows', { rows: f.args.rows }) : t('draft.row-n', { n: f.row }) }}
        </button>
        <strong>{{ words(f, 'title') }}</strong>
        <p>{{ words(f, 'text') }} {{ words(f, 'remedy') }}</p>
        <span class="acts">
          <Checkbox
            v-if="f.code === 'no-address-column'"
            :checked="draft.without"
            @update:checked="(v: boolean) => emit('change', [{ without: v }])"
            >{{ t('draft.without') }}</Checkbox
          >
          <Button
            v-if="f.args.suggestion"
            size="small"
            @click="
              emit('change', [
                {
                  cell: { row: f.row, field: f.field, value: f.args.suggestion },
                  was: cellOf(f.row, f.field),
                },
              ])
            "
            >{{ t('draft.use', { value: f.args.suggestion }) }}</Button
          >
          <Button
            v-if="f.code === 'account-other-name'"
            size="small"
            data-act="same"
            @click="emit('change', [{ same: { row: f.row, out: true } }])"
            >{{ t('draft.same-student') }}</Button
          >
          <Button
            v-if="f.code === 'student-twice'"
            size="small"
            @click="emit('change', [{ leftOut: { row: Number(f.args.first), out: true } }])"
            >{{ t('draft.keep-instead', { n: f.row }) }}</Button
          >
          <Button
            v-if="f.code === 'hidden-row'"
            size="small"
            data-act="take-in"
            @click="emit('change', [{ leftOut: { row: f.row, out: false } }])"
            >{{ t('list.take-in') }}</Button
          >
          <Button
            v-if="f.severity === 'error' && f.code !== 'no-address-column'"
            size="small"
            @click="emit('change', [{ leftOut: { row: f.row, out: true } }])"
            >{{ t('list.leave-out') }}</Button
          >
        </span>
      </div>
      <button v-if="k.shown.length < k.all.length" class="link" @click="opened.push(k.code)">
        {{ t('draft.more-like', { n: k.all.length - k.shown.length }, k.all.length - k.shown.length) }}
      </button>
    </template>
    <div v-for="f in out" :key="`o${f.row}`" class="fd">
      <strong>{{
        f.code === 'row-left-out' ? t('draft.you-left-out', { n: f.row }) : t('draft.row-n', { n: f.row })
      }}</strong>
      <p v-if="f.code !== 'row-left-out'">{{ words(f, 'title') }}</p>
      <Button size="small" @click="emit('change', [{ leftOut: { row: f.row, out: false } }])">{{
        t('list.take-in')
      }}</Button>
    </div>
  </div>
</template>

<style scoped>
.fd {
  border-top: 1px solid var(--thread-2);
  padding: 10px 0;
}
.fd:first-of-type {
  margin-top: 10px;
}
.fd strong {
  font-weight: 650;
  display: block;
}
.fd p {
  color: var(--ink-2);
  margin: 1px 0 6px;
  overflow-wrap: anywhere;
}
.all {
  margin-top: 10px;
}
.fd .where {
  float: right;
  font-size: 12.5px;
  margin-left: 8px;
}
.fd.error strong,
.fd.e strong {
  color: var(--brick);
}
.fd.warning strong {
  color: var(--brass-text);
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
.acts .ant-btn {
  max-width: 100%;
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>
