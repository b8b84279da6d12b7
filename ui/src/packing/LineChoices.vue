<script setup lang="ts">
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'

/** What a line can be besides packed: shown under a pointer, else once it is asked for. */
defineProps<{ name: string; mayGo: boolean }>()
const emit = defineEmits<{ skip: []; out: [how: 'unticked' | 'sits-out'] }>()
const { t } = useI18n()
const open = ref(false)
</script>

<template>
  <button
    class="plain dots"
    :aria-expanded="open"
    :aria-label="t('list.other', { name })"
    data-act="other"
    @click="open = !open"
  >
    ⋯
  </button>
  <span class="leave" :class="{ open }">
    <button class="link" data-act="skip" @click="emit('skip')">{{ t('list.not-now') }}</button>
    <template v-if="mayGo">
      ·
      <button class="link" @click="emit('out', 'unticked')">{{ t('list.leave-out') }}</button>
      ·
      <button class="link" data-act="sits-out" @click="emit('out', 'sits-out')">{{ t('list.sits-out') }}</button>
    </template>
  </span>
</template>

<style scoped>
.leave {
  display: none;
  position: absolute;
  top: 0;
  right: 24px;
  height: 25px;
  line-height: 25px;
  padding: 0 2px 0 12px;
  background: var(--sheet);
}
tr:hover .leave,
.leave.open {
  display: block;
}
.dots {
  position: absolute;
  top: 0;
  right: 0;
  width: 24px;
  height: 25px;
  opacity: 0;
}
tr:hover .dots,
.dots:focus-visible,
.dots[aria-expanded='true'] {
  opacity: 1;
}
@media (hover: none) {
  .dots {
    opacity: 1;
  }
}
</style>
