<script setup lang="ts">
import { useI18n } from 'vue-i18n'

/** In place of a part of the page that couldn't be fetched. */
const { t } = useI18n()
const again = () => window.location.reload()
</script>

<template>
  <p role="alert">
    {{ t('trouble.part') }} <button class="plain" @click="again">{{ t('trouble.load') }}</button>
  </p>
</template>

<style scoped>
button {
  text-decoration: underline;
}
</style>
