<script setup lang="ts">
import { Input } from 'ant-design-vue'
import { useI18n } from 'vue-i18n'
import { useClass } from '@/class/theClass'
import type { Hand } from './handout'

/** What a handout is called. */
const props = defineProps<{ hand: Hand }>()
const { h, open, problems, close, title } = props.hand
const { mayPack } = useClass()
const { t } = useI18n()
</script>

<template>
  <p v-if="h">
    {{ t('say.title') }}
    <span class="end">
      <button v-if="open !== 'title'" class="plain u" :disabled="!mayPack" data-part="title" @click="open = 'title'">
        {{ h.title || t('say.choose-title') }}
      </button>
      <Input
        v-else
        v-model:value="title"
        v-focus
        class="inline"
        :maxlength="200"
        @blur="close('title')"
        @press-enter="open = ''"
      />.</span
    >
  </p>
  <p v-if="problems.title" class="bad" role="alert">{{ problems.title }}</p>
</template>

<style scoped>
/* A sentence ends where its last word stands. */
.end {
  white-space: nowrap;
}
.end > * {
  white-space: normal;
}
.inline {
  width: 260px;
}
</style>
