<script setup lang="ts">
/** A small drawn satchel; each class has its own leather. */
defineProps<{ leather: number }>()
const leathers = [
  ['#87452A', '#A65A38'],
  ['#245E70', '#37717F'],
  ['#3F6B47', '#5D8A63'],
  ['#6A4C7D', '#84669A'],
  ['#7A5208', '#A57A2C'],
]
</script>

<template>
  <svg width="58" height="52" viewBox="0 0 58 52" aria-hidden="true">
    <path
      d="M19 12V9a7 7 0 0 1 7-7h6a7 7 0 0 1 7 7v3"
      fill="none"
      :stroke="leathers[leather % 5][0]"
      stroke-width="3"
    />
    <rect x="3" y="11" width="52" height="39" rx="9" :fill="leathers[leather % 5][1]" />
    <path d="M3 20a9 9 0 0 1 9-9h34a9 9 0 0 1 9 9c0 9-12 15-26 15S3 29 3 20Z" :fill="leathers[leather % 5][0]" />
    <rect x="24" y="29" width="10" height="10" rx="3" fill="#D9A441" />
  </svg>
</template>
