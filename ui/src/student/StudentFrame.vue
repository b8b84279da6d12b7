<script setup lang="ts">
import { useI18n } from 'vue-i18n'
import AccountMenu from '@/parts/AccountMenu.vue'
import BrandMark from '@/parts/BrandMark.vue'

const { t } = useI18n()
</script>

<template>
  <div class="frame">
    <header>
      <RouterLink to="/" class="home"><BrandMark /></RouterLink>
      <span class="grow" />
      <RouterLink :to="{ name: 'bin' }">{{ t('bin.title') }}</RouterLink>
      <AccountMenu class="me" />
    </header>
    <main><slot /></main>
  </div>
</template>

<style scoped>
.frame {
  min-height: 100%;
  max-width: 1320px;
  margin: 0 auto;
}
header {
  display: flex;
  align-items: center;
  padding: 14px 40px 0;
  gap: 20px;
}
.home {
  color: inherit;
  text-decoration: none;
}
.me :deep(ul) {
  top: calc(100% + 6px);
  bottom: auto;
  left: auto;
  right: 0;
}
.me :deep(li > *) {
  min-height: 44px;
  padding: 11px 16px;
}
.me :deep(.name span) {
  display: none;
}
main {
  padding: 22px 40px 40px;
}
@media print {
  header {
    display: none;
  }
  main {
    padding: 0;
  }
}
@media (max-width: 760px) {
  header {
    padding: 12px 16px 0;
    gap: 4px 10px;
    font-size: 13px;
    white-space: nowrap;
    flex-wrap: wrap;
  }
  .me :deep(.name) {
    /* the page greets by name */
    position: absolute;
    width: 1px;
    clip-path: inset(50%);
    white-space: nowrap;
  }
  main {
    padding: 16px 16px 32px;
  }
}
</style>
