<script setup lang="ts">
import { useI18n } from 'vue-i18n'
import BrandMark from '@/parts/BrandMark.vue'

/** One page for what isn't there and what isn't yours: it says nothing about which. */
defineProps<{ inside?: boolean }>()
const { t } = useI18n()
</script>

<template>
  <component :is="inside ? 'div' : 'main'" class="page" data-page="nothing">
    <BrandMark v-if="!inside" />
    <svg width="132" height="64" viewBox="-20 0 132 64" aria-hidden="true">
      <path d="M18 32C4 32 -2 12 -18 16" fill="none" stroke="#b08a4a" stroke-width="2.5" />
      <path
        d="M28 6H104a5 5 0 0 1 5 5V53a5 5 0 0 1-5 5H28L6 37a6 6 0 0 1 0-10Z"
        fill="none"
        stroke="var(--want)"
        stroke-width="2.5"
        stroke-dasharray="7 6"
      />
      <circle cx="25" cy="32" r="5" fill="none" stroke="var(--want)" stroke-width="2.5" />
    </svg>
    <h1>{{ t('nothing.title') }}</h1>
    <p class="quiet">{{ t('nothing.text') }}</p>
    <RouterLink to="/" class="home">{{ t('nothing.home') }}</RouterLink>
  </component>
</template>

<style scoped>
.page {
  min-height: 100%;
  display: grid;
  gap: 14px;
  place-content: center;
  justify-items: center;
  text-align: center;
  padding: 24px;
}
p {
  max-width: 46ch;
}
.home {
  padding: 11px 16px;
}
svg {
  margin-top: 30px;
}
</style>
