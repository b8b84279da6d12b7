<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { useI18n } from 'vue-i18n'
import { api, data } from '@/api/client'
import { keys } from '@/api/keys'
import { ago, exact } from '@/when'

/** Sign-in codes that were made for one's account, and by whom: nobody comes in with one unseen. */
const { t } = useI18n()
const { data: codes } = useQuery({ queryKey: keys.ownCodes(), queryFn: () => data(api.GET('/me/codes')) })
</script>

<template>
  <section data-form="own-codes">
    <h2>{{ t('codes.made') }}</h2>
    <p v-if="codes && !codes.length" class="quiet">{{ t('codes.made-none') }}</p>
    <ul v-else>
      <li v-for="c in codes" :key="c.at" :title="exact(Date.parse(c.at))">
        {{ t('codes.made-by', { by: c.by, when: ago(Date.parse(c.at), t) }) }}
        <span class="quiet">
          · {{ t(c.mailed ? 'codes.made-mailed' : 'codes.made-printed')
          }}<template v-if="c.away"> · {{ t('codes.made-away') }}</template></span
        >
      </li>
    </ul>
  </section>
</template>

<style scoped>
ul {
  list-style: none;
  padding: 0;
  margin: 8px 0 12px;
}
</style>
