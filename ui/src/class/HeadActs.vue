<script setup lang="ts">
import { useNarrow } from '@/parts/narrow'

/** The main acts of a page: at the head of its class, on a phone at its foot. */
const narrow = useNarrow()
</script>

<template>
  <Teleport defer :to="narrow ? '#foot-acts' : '#head-acts'"><slot /></Teleport>
</template>
