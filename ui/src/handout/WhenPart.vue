<script setup lang="ts">
import { Input } from 'ant-design-vue'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useClass } from '@/class/theClass'
import { useReasons } from '@/reasons'
import { past, usualDue, usualSend, wall } from '@/when'
import { isNotice, type Hand } from './handout'
import WallPart from './WallPart.vue'

/** What a handout is called, until when it is due and when it goes out. */
const props = defineProps<{ hand: Hand }>()
const { h, open, problems, close, title } = props.hand
const { cls, mayPack } = useClass()
const { t } = useI18n()
const { reasonText } = useReasons()

const notice = computed(() => isNotice(h.value))
</script>

<template>
  <template v-if="h && cls">
    <p class="line">
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
      <template v-if="!notice">
        {{ t('say.due') }}
        <WallPart :hand="hand" part="due" :label="t('say.due')" :none="t('say.no-due')" :usual="usualDue" />
      </template>
    </p>
    <p v-if="h.due && past(h.due) && !h.packedAt" class="line quiet note" data-due-over>{{ t('say.due-over') }}</p>
    <p v-if="!h.packedAt" class="line">
      {{ t('say.send') }}
      <WallPart
        :hand="hand"
        part="send"
        :label="t('say.send')"
        :none="t(notice ? 'say.no-post' : 'say.no-send')"
        :usual="usualSend"
      />
    </p>
    <p v-if="h.sendProblem" class="line bad" role="alert">
      {{ t('handout.not-sent', { when: wall(h.send), why: reasonText(h.sendProblem) }) }}
    </p>
    <p v-if="problems.due || problems.send || problems.title" class="line bad" role="alert">
      {{ problems.due || problems.send || problems.title }}
    </p>
  </template>
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
