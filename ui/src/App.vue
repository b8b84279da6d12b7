<script setup lang="ts">
import { ConfigProvider } from 'ant-design-vue'
import { computed, defineAsyncComponent } from 'vue'
import { useRoute } from 'vue-router'
import { me } from './me'
import { libraryTheme } from './theme/theme'

/** The frame of the staff's pages stays while one goes from page to page. */
const StaffFrame = defineAsyncComponent(() => import('./staff/StaffFrame.vue'))
const route = useRoute()
const framed = computed(() => route.meta.frame && me.value?.role !== 'student')
</script>

<template>
  <ConfigProvider :theme="libraryTheme">
    <StaffFrame v-if="framed"><RouterView /></StaffFrame>
    <RouterView v-else />
  </ConfigProvider>
</template>
