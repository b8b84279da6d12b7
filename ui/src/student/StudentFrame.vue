<script setup lang="ts">
import { useI18n } from 'vue-i18n'
import { me, signOut } from '@/me'
import BrandMark from '@/parts/BrandMark.vue'

const { t } = useI18n()
</script>

<template>
  <div class="frame">
    <header>
      <RouterLink to="/" class="home"><BrandMark /></RouterLink>
      <span class="grow" />
      <strong
        ><bdi>{{ me?.name }}</bdi></strong
      >
      <RouterLink :to="{ name: 'account' }">{{ t('password.account') }}</RouterLink>
      <RouterLink :to="{ name: 'bin' }">{{ t('bin.title') }}</RouterLink>
      <button class="link" @click="signOut()">{{ t('signin.out') }}</button>
      <button class="link" :title="t('signin.everywhere-text')" @click="signOut(true)">
        {{ t('signin.everywhere') }}
      </button>
    </header>
    <main><slot /></main>
  </div>
</template>

<style scoped>
.frame {
  min-height: 100%;
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
strong {
  font-weight: 650;
}
main {
  padding: 22px 40px 40px;
}
@media (max-width: 760px) {
  header {
    padding: 12px 16px 0;
    gap: 4px 10px;
    font-size: 13px;
    white-space: nowrap;
    flex-wrap: wrap;
  }
  header strong {
    display: none; /* the page greets by name */
  }
  main {
    padding: 16px 16px 32px;
  }
}
</style>
