<script setup lang="ts">
/** One of several: the device's own list, in our colours. */
defineProps<{ options: { value: string; label: string }[]; label: string }>()
const value = defineModel<string>({ required: true })
</script>

<template>
  <select v-model="value" class="pick-one" :aria-label="label">
    <option v-for="o in options" :key="o.value" :value="o.value">{{ o.label }}</option>
  </select>
</template>
