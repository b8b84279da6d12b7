<script setup lang="ts">
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import PackingPart from './PackingPart.vue'
import type { PartState } from './part'
import { inOf, type Member } from '@/handout/together'

/** The packing list of another class that the handout is for: what it counts, and its lines when opened. */
const props = defineProps<{ member: Member; one: boolean }>()
defineEmits<{ state: [PartState] }>()
const { t } = useI18n()
const { h, refresh, change } = props.member.hand
const { cls } = props.member
const open = ref(false)
const count = (s: string) => h.value?.list.lines.filter((l) => l.section === s && l.purpose === 'copy').length ?? 0
const bits = computed(() => {
  const out = [t('together.in', { n: inOf(cls.value, h.value) }, inOf(cls.value, h.value))]
  for (const s of ['to-pack', 'already-there', 'needs-fixing'])
    if (count(s)) out.push(`${t(`section.${s}`)}: ${count(s)}`)
  return out.join(' · ')
})
</script>

<template>
  <section v-if="h && cls" class="member" :class="{ open }" :data-member="member.code">
    <button class="plain head" :aria-expanded="open" @click="open = !open">
      <span class="arrow" aria-hidden="true">{{ open ? '▾' : '▸' }}</span>
      <b>{{ member.name }}</b> <span :class="count('needs-fixing') ? 'brick' : 'quiet'">{{ bits }}</span>
    </button>
    <PackingPart
      v-show="open"
      :class-id="member.class"
      :list="h.list"
      main="copy"
      :one="one"
      :packed="!!h.packedAt"
      may-pack
      :refresh="refresh"
      @state="(s) => $emit('state', s)"
      @out="(row, why) => change({ out: { [row]: why } }, 'out')"
      @in="(row) => change({ out: { [row]: '' } }, 'out')"
    />
  </section>
</template>

<style scoped>
.member {
  border-top: 1px solid var(--thread);
  margin: 0 -24px;
  padding: 4px 24px;
}
.member :deep(.list) {
  height: 300px;
}
.member :deep(.list > .head) {
  display: none;
}
.head {
  display: flex;
  gap: 8px;
  align-items: baseline;
  text-align: left;
  padding: 5px 0 !important;
  font-size: 14px;
}
.brick {
  color: var(--brick);
}
</style>
