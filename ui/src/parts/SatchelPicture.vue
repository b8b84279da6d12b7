<script setup lang="ts">
import { computed } from 'vue'
import type { Of } from '@/api/client'

/** A small drawn satchel: of its own colour and with its own symbol, or of a leather for each class. */
const props = defineProps<{ leather: number; cue?: Of<'Cue'> }>()
const leathers: Record<string, [string, string]> = {
  leather: ['#87452A', '#A65A38'],
  tide: ['#245E70', '#37717F'],
  moss: ['#3F6B47', '#5D8A63'],
  plum: ['#6A4C7D', '#84669A'],
  brass: ['#7A5208', '#A57A2C'],
  slate: ['#454B57', '#626A79'],
  coral: ['#A8452F', '#C8654C'],
  sand: ['#8A744C', '#AC9468'],
}
// Drawn in a square of 16, over the flap.
const symbols: Record<string, string> = {
  anchor:
    'M8 5.5V14M8 14c-3.4 0-5.5-2-5.8-4.4l1.6 1M8 14c3.4 0 5.5-2 5.8-4.4l-1.6 1M5.6 7.4h4.8M8 2.2a1.6 1.6 0 1 1 0 3.3a1.6 1.6 0 0 1 0-3.3',
  shell:
    'M8 13.5L3 10C2 6 4.600 2.800 8 2.800S14 6 13 10ZM8 13.500V3M8 13.500L4.800 4.200M8 13.500l3.200-9.3M6 13.600h4',
  kite: 'M8 1.600l4.400 4.600L8 12L3.600 6.200ZM8 12c0 2-2 1.400-2 2.800M8 1.600V12M3.600 6.200h8.800',
  lamp: 'M5 13.500h6M6 13.500l.8-6.500h2.400l.8 6.500M6 7h4V4H6ZM6 4l2-2.200L10 4M11.500 5.500l2.500-.7M4.500 5.500L2 4.800',
  buoy: 'M4 11l2.400-6h3.200L12 11ZM2.500 13.500c1.800-1.400 3.700-1.400 5.500 0s3.700 1.400 5.500 0M8 5V2.200M7 2.200h2M4.900 8.800h6.200',
  oar: 'M3 13.500l6.500-6.800M9 7.300c.2-2.400 1.800-4.600 4.200-5.100c.3 2.400-1.3 4.700-3.500 5.600Z',
  feather: 'M3 13.500C5 10 7 7 13 2.500C13.500 7 11 11 6 11.200M5.600 10.200L12 4',
  star: 'M8 2l1.700 4.100l4.400.3l-3.400 2.800l1.100 4.300L8 11.200l-3.800 2.300l1.100-4.300L1.900 6.400l4.400-.3Z',
}
const names = Object.keys(leathers)
const of = computed(() => leathers[props.cue?.colour || ''] ?? leathers[names[props.leather % 5]])
</script>

<template>
  <svg width="58" height="52" viewBox="0 0 58 52" aria-hidden="true">
    <path d="M19 12V9a7 7 0 0 1 7-7h6a7 7 0 0 1 7 7v3" fill="none" :stroke="of[0]" stroke-width="3" />
    <rect x="3" y="11" width="52" height="39" rx="9" :fill="of[1]" />
    <path d="M3 20a9 9 0 0 1 9-9h34a9 9 0 0 1 9 9c0 9-12 15-26 15S3 29 3 20Z" :fill="of[0]" />
    <g v-if="cue?.symbol" transform="translate(17 15) scale(1.5)">
      <circle cx="8" cy="8" r="9.3" fill="#FBF7EE" />
      <path
        :d="symbols[cue.symbol]"
        fill="none"
        :stroke="of[0]"
        stroke-width="1.3"
        stroke-linecap="round"
        stroke-linejoin="round"
      />
    </g>
    <rect v-else x="24" y="29" width="10" height="10" rx="3" fill="#D9A441" />
  </svg>
</template>
