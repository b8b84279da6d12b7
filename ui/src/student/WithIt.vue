<script setup lang="ts">
import type { Of } from '@/api/client'

/** What a teacher says with something: formatted words, and links with where they lead. */
defineProps<{ html: string; links: Of<'HandoutLink'>[] }>()
</script>

<template>
  <!-- eslint-disable-next-line vue/no-v-html -->
  <article v-if="html" class="text words" v-html="html" />
  <ul v-if="links.length">
    <li v-for="l in links" :key="l.address">
      <a :href="l.address" target="_blank" rel="noopener noreferrer">{{ l.words }}</a><span class="quiet">
        {{ l.address }}</span
      >
    </li>
  </ul>
</template>

<style scoped>
.words {
  font-size: 15px;
  overflow-wrap: anywhere;
}
li .quiet {
  margin-left: 8px;
}
ul {
  margin: 4px 0 0;
  padding-left: 20px;
}
li {
  overflow-wrap: anywhere;
}
</style>
