<script setup lang="ts">
import { ConfigProvider } from 'ant-design-vue'
import { libraryTheme } from './theme/theme'
</script>

<template>
  <ConfigProvider :theme="libraryTheme">
    <RouterView />
  </ConfigProvider>
</template>
