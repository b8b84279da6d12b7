<script setup lang="ts">
import { ConfigProvider } from 'ant-design-vue'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'
import { late, missing } from './late'
import { me } from './me'
import NotFetched from './parts/NotFetched.vue'
import ToldHere from './parts/ToldHere.vue'
import { libraryTheme } from './theme/theme'
import { trouble } from './trouble'

/** The frame of the staff's pages stays while one goes from page to page. */
const StaffFrame = late(() => import('./class/StaffFrame.vue'))
const { t } = useI18n()
const route = useRoute()
const framed = computed(() => route.meta.frame && me.value?.role !== 'student')
</script>

<template>
  <ConfigProvider :theme="libraryTheme">
    <p v-if="trouble" class="trouble" role="status" data-trouble>{{ t(`trouble.${trouble}`) }}</p>
    <NotFetched v-else-if="missing" class="trouble" />
    <StaffFrame v-if="framed"><RouterView /></StaffFrame>
    <RouterView v-else />
    <ToldHere />
  </ConfigProvider>
</template>

<style scoped>
.trouble {
  position: fixed;
  bottom: 72px; /* over the packing belt */
  left: 50%;
  transform: translateX(-50%);
  z-index: 2000;
  max-width: min(640px, calc(100vw - 32px));
  margin: 0;
  padding: 8px 16px;
  border-radius: 8px;
  background: var(--brass-soft);
  color: var(--brass-text);
  box-shadow: 0 2px 10px rgb(0 0 0 / 14%);
}
</style>
