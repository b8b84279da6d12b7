<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useClass } from '@/class/theClass'
import { useReasons } from '@/reasons'
import { past, usualDue, usualSend, wall } from '@/when'
import { isNotice, type Hand } from './handout'
import PensPart from './PensPart.vue'
import ShowAllPart from './ShowAllPart.vue'
import type { Folds } from './usual'
import WallPart from './WallPart.vue'

/** Until when a handout is due and when it goes out. */
const props = defineProps<{ hand: Hand; folds: Folds }>()
const { h, problems } = props.hand
const { cls } = useClass()
const { t } = useI18n()
const { reasonText } = useReasons()

const notice = computed(() => isNotice(h.value))
</script>

<template>
  <template v-if="h && cls">
    <p v-if="!notice">
      {{ t('say.due') }}
      <WallPart :hand="hand" part="due" :label="t('say.due')" :none="t('say.no-due')" :usual="usualDue" />
    </p>
    <PensPart v-if="!notice" :hand="hand" />
    <ShowAllPart v-if="!notice" :hand="hand" />
    <p v-if="h.due && past(h.due) && !h.packedAt" class="quiet note" data-due-over>{{ t('say.due-over') }}</p>
    <p v-if="!h.packedAt && !folds('send')">
      {{ t(notice ? 'say.post' : 'say.send') }}
      <WallPart
        :hand="hand"
        part="send"
        :label="t('say.send')"
        :none="t(notice ? 'say.no-post' : 'say.no-send')"
        :usual="usualSend"
      />
    </p>
    <p v-if="h.sendProblem" class="bad" role="alert">
      {{ t('handout.not-sent', { when: wall(h.send), why: reasonText(h.sendProblem) }) }}
    </p>
    <p v-if="problems.due || problems.send" class="bad" role="alert">
      {{ problems.due || problems.send }}
    </p>
  </template>
</template>
