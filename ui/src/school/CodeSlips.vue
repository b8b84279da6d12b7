<script setup lang="ts">
import { Button, Segmented } from 'ant-design-vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { me } from '@/me'
import { usePaper } from '@/parts/paper'
import { exact } from '@/when'

/** Slips with a code for the next sign-in, to be printed and cut. They are shown this once. */
defineProps<{ codes: Of<'Code'>[] }>()
const emit = defineEmits<{ close: [] }>()
const { t } = useI18n()
const { paper, print } = usePaper(
  '.rail, .belt, .page > header { display: none !important } .frame, .page { display: block !important }',
)
</script>

<template>
  <div class="slips" data-form="codes">
    <div class="bar">
      <button class="link" @click="emit('close')">{{ t('codes.back') }}</button>
      <Segmented v-model:value="paper" :options="['A4', 'Letter']" />
      <Button type="primary" data-act="print" @click="print">{{
        t('slips.print', { n: codes.length }, codes.length)
      }}</Button>
      <span class="quiet">{{ t('codes.once') }}</span>
    </div>
    <div class="sheet">
      <article v-for="c in codes" :key="c.account" class="slip" :data-slip="c.address">
        <b
          ><bdi>{{ c.name }}</bdi></b
        >
        <span>{{ t('codes.go', { address: me?.site }) }}</span>
        <span>{{ t('codes.with', { address: c.address }) }}</span>
        <strong class="code">{{ c.code }}</strong>
        <span class="small">{{ t('codes.until', { when: exact(Date.parse(c.until)) }) }} · {{ me?.school }}</span>
      </article>
    </div>
  </div>
</template>

<style scoped>
.slips {
  height: 100%;
  overflow: auto;
  padding: 18px var(--edge) 24px;
}
.bar {
  display: flex;
  gap: 16px;
  align-items: center;
  margin-bottom: 16px;
  flex-wrap: wrap;
}
.sheet {
  display: grid;
  grid-template-columns: repeat(2, 92mm);
}
.slip {
  width: 92mm;
  min-height: 46mm;
  border: 0.3mm dashed #857a6d;
  margin: -0.15mm;
  padding: 4mm;
  display: grid;
  gap: 1mm;
  align-content: center;
  background: #fff;
  color: #2a2331;
  break-inside: avoid;
  font-size: 3.4mm;
  overflow-wrap: anywhere;
}
.slip b {
  font-size: 4.6mm;
}
.code {
  font-size: 6.4mm;
  letter-spacing: 0.6mm;
  font-variant-numeric: slashed-zero;
}
.small {
  font-size: 2.8mm;
  color: #5c5363;
}
@media print {
  .bar {
    display: none;
  }
  .slips {
    padding: 0.3mm;
    overflow: visible;
    height: auto;
  }
}
</style>
