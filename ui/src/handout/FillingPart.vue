<script setup lang="ts">
import { Checkbox, Select } from 'ant-design-vue'
import { keepPreviousData, useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { sentence } from '@/tell'
import { filledIn } from './filled'
import type { Hand } from './handout'

/** What a document asks for in square brackets, and what is there in somebody's copy. */
const props = defineProps<{ hand: Hand; document: Of<'GivenDocument'> }>()
const emit = defineEmits<{ plain: [boolean] }>()
const { t } = useI18n()
const whom = ref('')
const path = computed(() => ({ ...props.hand.path.value.path, slot: props.document.slot }))
const { data: f, error } = useQuery(
  computed(() => ({ ...filledIn(props.hand, props.document, whom.value), placeholderData: keepPreviousData })),
)
const asks = computed(() => !!f.value?.columns.length)
const options = computed(() => f.value?.takers.map((x) => ({ value: x.whom, label: x.name })) ?? [])
const address = computed(
  () =>
    `/api/classes/${path.value.classId}/handouts/${path.value.handoutId}/documents/${props.document.slot}/copy?whom=${f.value?.whom}`,
)
</script>

<template>
  <p v-if="error" class="quiet" role="alert">{{ sentence(error) }}</p>
  <div v-else-if="f && (asks || document.plain || f.unreadable)" class="filling" data-form="filling">
    <p v-if="f.unreadable" class="quiet">{{ t('filling.unreadable') }}</p>
    <Checkbox v-else :checked="!document.plain" data-act="fill-in" @update:checked="(on) => emit('plain', !on)">{{
      t('filling.on')
    }}</Checkbox>
    <template v-if="asks">
      <Select
        size="small"
        class="whom"
        show-search
        option-filter-prop="label"
        :value="f.whom"
        :options="options"
        :aria-label="t('filling.whose')"
        @update:value="(v) => (whom = String(v))"
      />
      <dl>
        <template v-for="c in f.columns" :key="c.label">
          <dt>[{{ c.label }}]</dt>
          <dd>
            <bdi v-if="c.value">{{ c.value }}</bdi><span v-else class="quiet">{{ t('filling.nothing') }}</span
            ><span v-if="c.lacking" class="quiet"> · {{ t('filling.lacking', { n: c.lacking }, c.lacking) }}</span>
          </dd>
        </template>
      </dl>
      <p v-if="f.missing.length" class="quiet" data-part="no-column">
        {{ t('filling.missing', { parts: f.missing.map((m) => `[${m}]`).join(' ') }, f.missing.length) }}
      </p>
      <details v-if="f.html">
        <summary>{{ t('filling.see') }}</summary>
        <!-- eslint-disable-next-line vue/no-v-html -->
        <article class="sheet text" v-html="f.html" />
      </details>
      <a v-else :href="address" download data-act="see-copy">{{ t('filling.download') }}</a>
    </template>
  </div>
</template>

<style scoped>
.filling {
  display: grid;
  gap: 6px;
  justify-items: start;
  margin-top: 10px;
}
.filling p {
  margin: 0;
}
.whom {
  min-width: 220px;
  max-width: 100%;
}
dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 2px 12px;
  margin: 0;
}
dt {
  color: var(--quiet);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
details {
  width: 100%;
}
.text {
  max-height: 300px;
  overflow: auto;
  background: var(--paper);
  border-radius: 8px;
  padding: 10px 14px;
}
</style>
