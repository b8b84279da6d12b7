<script setup lang="ts">
import { Button, Checkbox } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { useFieldName } from '@/parts/fieldName'

/** What a newer list changes in its classes, line by line; what is unticked stays as it is. */
const props = defineProps<{ draft: Of<'Draft'> }>()
const emit = defineEmits<{ change: [Of<'DraftChange'>[]] }>()
const { t } = useI18n()
const fieldName = useFieldName()

const kinds = ['doubtful', 'joined', 'returned', 'moved', 'changed', 'left', 'unchanged'] as const
const groups = computed(() =>
  kinds
    .map((kind) => ({ kind, lines: props.draft.lines.filter((l) => l.kind === kind) }))
    .filter((g) => g.lines.length),
)
const opened = ref<string[]>([])
const shown = (g: { kind: string; lines: Of<'DraftLine'>[] }) =>
  g.kind === 'unchanged' && !opened.value.includes(g.kind) ? [] : g.lines
const several = computed(() => new Set(props.draft.lines.map((l) => l.class)).size > 1)
const className = (id: string) => props.draft.classes.find((c) => c.id === id)?.code ?? t('draft.new-class')
const tick = (l: Of<'DraftLine'>, on: boolean) => emit('change', [{ tick: { key: l.key, on } }])
const all = (lines: Of<'DraftLine'>[], on: boolean) =>
  emit(
    'change',
    lines.map((l) => ({ tick: { key: l.key, on } })),
  )
const ticked = (lines: Of<'DraftLine'>[]) => lines.filter((l) => l.accepted).length
const say = (l: Of<'DraftLine'>, row: string) => emit('change', [{ said: { line: l.line, row }, was: l.said }])
</script>

<template>
  <div class="changes">
    <p v-if="draft.partial" class="partial">{{ t('compare.partial') }}</p>
    <section v-for="g in groups" :key="g.kind" :data-kind="g.kind">
      <h3>
        <Checkbox
          v-if="g.kind !== 'unchanged' && g.kind !== 'doubtful'"
          :checked="ticked(g.lines) === g.lines.length"
          :indeterminate="ticked(g.lines) > 0 && ticked(g.lines) < g.lines.length"
          :aria-label="t('compare.all-of', { kind: t(`compare.${g.kind}`, { n: g.lines.length }, g.lines.length) })"
          @update:checked="(on: boolean) => all(g.lines, on)"
        />
        <span class="kind">{{ t(`compare.${g.kind}`, { n: g.lines.length }, g.lines.length) }}</span>
        <span class="quiet follows">{{ t(`compare.follows-${g.kind}`) }}</span>
        <button v-if="g.kind === 'unchanged'" class="link" @click="opened = opened.length ? [] : ['unchanged']">
          {{ opened.length ? t('list.fewer') : t('compare.show') }}
        </button>
      </h3>
      <ul>
        <li v-for="l in shown(g)" :key="l.key" :class="{ off: !l.accepted }" :data-line="l.name">
          <Checkbox
            v-if="g.kind !== 'unchanged'"
            :checked="l.accepted"
            :aria-label="l.name"
            @update:checked="(on: boolean) => tick(l, on)"
          />
          <span class="who"
            ><bdi>{{ l.name }}</bdi>
            <span v-if="several" class="chip soft">{{ className(l.class) }}</span>
            <span v-if="l.line" class="faint row">{{ t('draft.row-n', { n: l.line }) }}</span>
          </span>
          <span class="what">
            <template v-if="l.kind === 'doubtful'">
              <span class="why">{{ t(`compare.why-${l.why}`) }}</span>
              <span class="answers">
                <Button v-for="c in l.candidates" :key="c.row" size="small" @click="say(l, c.row)">{{
                  t('compare.is', { name: c.name, mark: c.number || c.address })
                }}</Button>
                <Button size="small" @click="say(l, 'new')">{{ t('compare.is-new') }}</Button>
              </span>
            </template>
            <template v-else>
              <span v-if="l.kind === 'moved'" class="field"
                >{{ className(l.from) }} → <b>{{ className(l.class) }}</b></span
              >
              <span v-for="f in l.fields" :key="f.field" class="field" :class="{ off: !f.accepted }"
                ><Checkbox
                  v-if="!f.to"
                  :checked="f.accepted"
                  :aria-label="t('compare.empty-it', { field: fieldName(f.field) })"
                  @update:checked="(on: boolean) => emit('change', [{ tick: { key: f.key, on } }])"
                />
                <span class="quiet">{{ fieldName(f.field) }}</span> <s v-if="f.from">{{ f.from }}</s><span
                  v-else
                  class="faint"
                  >{{ t('compare.nothing') }}</span
                >
                → <b v-if="f.to">{{ f.to }}</b><span v-else class="faint">{{ t('compare.empty-cell') }}</span></span
              >
              <button v-if="l.said" class="link" @click="say(l, '')">{{ t('compare.ask-again') }}</button>
            </template>
          </span>
        </li>
      </ul>
    </section>
  </div>
</template>

<style scoped>
.changes {
  flex: 1;
  min-height: 0;
  overflow: auto;
  padding-right: 20px;
}
.partial {
  background: var(--brass-soft);
  color: var(--brass-text);
  border-radius: 6px;
  padding: 8px 12px;
  margin: 2px 0 8px;
}
section h3 {
  display: flex;
  align-items: baseline;
  gap: 9px;
  position: sticky;
  top: 0;
  background: var(--paper);
  margin: 0;
  padding: 10px 0 5px;
  border-bottom: 1.5px solid var(--thread);
  font-size: 14.5px;
  color: var(--ink);
  z-index: 1;
}
.kind {
  flex: none;
  max-width: 60%;
}
.follows {
  font-weight: 400;
  font-size: 13.5px;
}
ul {
  list-style: none;
  margin: 0 0 10px;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 24px minmax(150px, 240px) minmax(0, 1fr);
  gap: 2px 10px;
  align-items: baseline;
  padding: 4px 0;
  border-bottom: 1px solid var(--thread-2);
  font-size: 14px;
}
li > .who:first-child {
  grid-column: 1 / 3;
  padding-left: 24px;
}
.who {
  font-weight: 600;
  overflow-wrap: anywhere;
}
.who .row {
  font-weight: 400;
  font-size: 12.5px;
  margin-left: 6px;
}
.what {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
  align-items: baseline;
  overflow-wrap: anywhere;
}
.off .who,
.off .what {
  color: var(--ink-3);
}
s {
  color: var(--ink-3);
}
.why {
  color: var(--brass-text);
  flex-basis: 100%;
}
.answers {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
section[data-kind='left'] h3 {
  color: var(--brick);
}
section[data-kind='doubtful'] h3 {
  color: var(--brass-text);
}
@media (max-width: 760px) {
  li {
    grid-template-columns: 24px minmax(0, 1fr);
  }
  .what {
    grid-column: 2;
  }
}
</style>
