<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { ago, exact } from '@/when'

/** Every kept state of a document: look at one, bring it back. */
const props = defineProps<{ thing: Of<'Thing'>; may: boolean; version: number }>()
defineEmits<{ back: [text: string]; close: [] }>()
const { t } = useI18n()
const chosen = ref(0)
const { data: list } = useQuery({
  queryKey: computed(() => keys.versions(props.thing.id, props.version)),
  queryFn: () => data(api.GET('/things/{thingId}/versions', { params: { path: { thingId: props.thing.id } } })),
})
const { data: text } = useQuery({
  queryKey: computed(() => keys.version(props.thing.id, chosen.value)),
  enabled: computed(() => chosen.value > 0),
  queryFn: () =>
    data(
      api.GET('/things/{thingId}/text', {
        params: { path: { thingId: props.thing.id }, query: { version: chosen.value } },
      }),
    ),
})
</script>

<template>
  <section class="versions">
    <ol>
      <li v-for="v in list" :key="v.number">
        <button
          class="plain"
          :class="{ on: chosen === v.number }"
          :title="exact(Date.parse(v.at))"
          @click="chosen = v.number"
        >
          <b>{{ v.number === 1 ? t('doc.handed-out') : ago(Date.parse(v.at), t) }}</b>
          <span class="quiet">{{ v.by }}</span>
        </button>
      </li>
    </ol>
    <div>
      <p v-if="!text" class="quiet">{{ t('doc.choose-version') }}</p>
      <template v-else>
        <button v-if="may && chosen !== list?.[0]?.number" class="link" @click="$emit('back', text.text)">
          {{ t('doc.bring-back') }}
        </button>
        <!-- The server renders and cleans this HTML: no script, style or form is left in it. -->
        <!-- eslint-disable-next-line vue/no-v-html -->
        <article class="sheet text" v-html="text.html" />
      </template>
      <button class="link" @click="$emit('close')">{{ t('doc.back-to-writing') }}</button>
    </div>
  </section>
</template>

<style scoped>
.versions {
  display: grid;
  grid-template-columns: 220px minmax(0, 1fr);
  gap: 22px;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 64vh;
  overflow-y: auto;
}
li button {
  width: 100%;
  padding: 6px 8px;
  border-bottom: 1px solid var(--thread-2);
  display: grid;
}
li button.on,
li button:hover {
  background: var(--leather-soft);
}
@media (max-width: 760px) {
  .versions {
    grid-template-columns: 1fr;
  }
}
</style>
