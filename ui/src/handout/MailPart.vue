<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import PickOne from '@/parts/PickOne.vue'
import type { Of } from '@/api/client'
import { isNotice, type Hand } from './handout'
import MessageLetter from '@/telling/MessageLetter.vue'
import { useClass } from '@/class/theClass'

/** Whether its people are told by post, of what, and in which words. */
const props = defineProps<{ hand: Hand }>()
const { h, open, problems, change, later } = props.hand
const { classId, mayPack } = useClass()
const { t } = useI18n()
const notice = computed(() => isNotice(h.value))
const choices = computed(() => (['not', 'first', ...(notice.value ? [] : ['changes'])] as const).map(String))
const parts = { given: 'mail', changed: 'mailChanged' } as const
const kind = computed(() => (open.value === 'mailChanged' ? 'changed' : 'given'))
const text = ref<Of<'MailText'>>({ subject: '', body: '' })
watch(
  [h, open],
  ([x]) => {
    const kept = x?.[parts[kind.value]]
    if (kept && (text.value.subject === '' || open.value !== parts[kind.value])) text.value = { ...kept }
  },
  { immediate: true },
)
function edit(part: 'mail' | 'mailChanged') {
  if (open.value === part) return void (open.value = '')
  text.value = { ...h.value![part] }
  open.value = part
}
function typed(to: Of<'MailText'>) {
  text.value = to
  if (to.subject.trim() && to.body.trim()) later({ [parts[kind.value]]: to }, parts[kind.value])
}
async function usual() {
  await change({ [parts[kind.value]]: { subject: '', body: '' } }, parts[kind.value])
  text.value = { ...h.value![parts[kind.value]] }
}
</script>

<template>
  <div v-if="h">
    <p data-mail>
      {{ t('mail.they-are') }}
      <PickOne
        v-if="mayPack"
        class="u-select"
        data-part="tell"
        :model-value="h.tell"
        :options="choices.map((v) => ({ value: v, label: t(notice ? `mail.notice-${v}` : `mail.tell-${v}`) }))"
        :label="t('mail.they-are')"
        @update:model-value="(v) => change({ tell: v as 'not' }, 'tell')"
      /><template v-else>{{ t(notice ? `mail.notice-${h.tell}` : `mail.tell-${h.tell}`) }}</template
      ><template v-if="h.tell !== 'not'"
        >,
        <button
          class="plain u soft"
          :class="{ on: open === 'mail' }"
          :disabled="!mayPack"
          data-part="mail"
          @click="edit('mail')"
        >
          {{ t('mail.in-words') }}</button><template v-if="h.tell === 'changes'"
          >{{ t('mail.and-of-changes') }}
          <button
            class="plain u soft"
            :class="{ on: open === 'mailChanged' }"
            :disabled="!mayPack"
            data-part="mail-changed"
            @click="edit('mailChanged')"
          >
            {{ t('mail.in-those') }}
          </button></template
        ></template
      >.
    </p>
    <div v-if="(open === 'mail' || open === 'mailChanged') && mayPack" class="pop" data-form="mail">
      <MessageLetter :key="kind" :class-id="classId" :ask="{ kind, handout: h.id }" :text="text" @update:text="typed">
        <p v-if="problems[parts[kind]]" class="bad" role="alert">{{ problems[parts[kind]] }}</p>
        <div class="acts">
          <Button size="small" @click="open = ''">{{ t('act.done') }}</Button>
          <Button size="small" @click="usual">{{ t('mail.usual') }}</Button>
        </div>
      </MessageLetter>
    </div>
    <p v-if="problems.tell" class="bad" role="alert">{{ problems.tell }}</p>
  </div>
</template>

<style scoped>
.acts {
  display: flex;
  gap: 8px;
  margin-top: 10px;
}
</style>
