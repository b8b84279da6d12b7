<script setup lang="ts">
import { computed } from 'vue'

/** A text as it was typed, the web addresses in it as links. */
const props = defineProps<{ text: string }>()
const address = /(https?:\/\/[^\s<>"“”]*[^\s<>"“”.,;:!?)\]’'])/
const parts = computed(() => props.text.split(address))
</script>

<template>
  <template v-for="(p, i) in parts" :key="i"
    ><a v-if="i % 2" :href="p" target="_blank" rel="noopener noreferrer">{{ p }}</a
    ><template v-else>{{ p }}</template></template
  >
</template>
