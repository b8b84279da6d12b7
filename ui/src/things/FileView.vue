<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { ago } from '@/when'
import { weight } from './weight'

const props = defineProps<{ thing: Of<'Thing'> }>()
const { t } = useI18n()
const url = computed(() => `/api/things/${props.thing.id}/content`)
const picture = computed(() => /^image\/(png|jpeg|gif|webp)/.test(props.thing.mediaType))
</script>

<template>
  <div>
    <img v-if="picture" :src="url" :alt="thing.name" />
    <p class="quiet">
      {{ weight(thing.size) }} ·
      {{ t('thing.changed', { who: thing.changedBy, when: ago(Date.parse(thing.changedAt), t) }) }}
    </p>
    <p>
      <a :href="url" download>{{ t('thing.download') }}</a>
    </p>
  </div>
</template>

<style scoped>
img {
  max-width: 100%;
  max-height: 60vh;
  border: 1px solid var(--thread);
  border-radius: 6px;
  margin-bottom: 10px;
}
</style>
