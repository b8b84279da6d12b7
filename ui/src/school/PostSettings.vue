<script setup lang="ts">
import { Button, Input, InputNumber } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import type { SchoolTyped } from './school'
import { useActing } from '@/parts/acting'
import PickOne from '@/parts/PickOne.vue'

/** Where the school's pages are, how its mail goes out, and whether it does. */
const typed = defineModel<SchoolTyped>({ required: true })
const props = defineProps<{ school: Of<'School'>; dirty: boolean }>()
const { t } = useI18n()
const put = (part: Partial<Of<'PostSettings'>>) =>
  (typed.value = { ...typed.value, post: { ...typed.value.post, ...part } })
const fixed = computed(() => props.school.fixed.includes('site'))
const ways = computed(() => ['starttls', 'tls', 'none'].map((value) => ({ value, label: t(`post.${value}`) })))
const answer = ref<Of<'PostTrial'>>()
const { busy, problem, act } = useActing()
async function attempt() {
  answer.value = undefined
  answer.value = await act(() => data(api.POST('/school/post/trial')))
}
</script>

<template>
  <fieldset data-form="post">
    <legend class="display">{{ t('post.title') }}</legend>
    <label
      >{{ t('post.site')
      }}<Input
        :value="typed.site"
        data-field="site"
        :disabled="fixed"
        :maxlength="300"
        placeholder="https://satchel.school.example"
        @update:value="(v: string) => (typed = { ...typed, site: v })"
      /><span class="quiet">{{ t('post.site-help') }}</span></label
    >
    <label
      >{{ t('post.server')
      }}<Input
        :value="typed.post.server"
        data-field="post-server"
        :maxlength="253"
        placeholder="mail.school.example"
        @update:value="(v: string) => put({ server: v })"
      /><span class="quiet">{{ t('post.server-help') }}</span></label
    >
    <template v-if="typed.post.server">
      <div class="pair">
        <label
          >{{ t('post.security')
          }}<PickOne
            :model-value="typed.post.security || 'starttls'"
            :label="t('post.security')"
            :options="ways"
            @update:model-value="(v) => put({ security: v })"
        /></label>
        <label
          >{{ t('post.port')
          }}<InputNumber
            :value="typed.post.port || undefined"
            :min="1"
            :max="65535"
            :placeholder="t('post.port-usual')"
            @update:value="(v) => put({ port: Number(v ?? 0) })"
        /></label>
      </div>
      <div class="pair">
        <label
          >{{ t('post.user')
          }}<Input
            :value="typed.post.user"
            data-field="post-user"
            :maxlength="200"
            autocomplete="off"
            @update:value="(v: string) => put({ user: v })"
        /></label>
        <label
          >{{ t('post.pace')
          }}<InputNumber
            :value="typed.post.perMinute || undefined"
            :min="1"
            :max="60000"
            :placeholder="t('post.pace-none')"
            @update:value="(v) => put({ perMinute: Number(v ?? 0) })"
        /></label>
      </div>
      <p class="quiet">{{ t(school.postReady ? 'post.password-there' : 'post.password-none') }}</p>
    </template>
    <label
      >{{ t('post.from')
      }}<Input
        :value="typed.post.from"
        data-field="post-from"
        :maxlength="254"
        :placeholder="school.postFrom"
        @update:value="(v: string) => put({ from: v })"
    /></label>
    <div>
      <Button :loading="busy" :disabled="dirty" data-act="try-post" @click="attempt">{{ t('post.try') }}</Button>
      <span v-if="dirty" class="quiet"> {{ t('post.keep-first') }}</span>
    </div>
    <p v-if="answer" :class="answer.taken ? 'good' : 'bad'" role="status" data-answer>
      {{
        answer.taken
          ? t(answer.server ? 'post.taken' : 'post.taken-here', { to: answer.to, server: answer.server })
          : t('post.refused', { server: answer.server, answer: answer.answer })
      }}
    </p>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
  </fieldset>
</template>

<style scoped>
fieldset {
  border: 0;
  border-top: 1px solid var(--thread);
  padding: 14px 0 0;
  margin: 4px 0 0;
  display: grid;
  gap: 12px;
  min-width: 0;
}
legend {
  font-size: 19px;
  padding: 0 10px 0 0;
}
label {
  display: grid;
  gap: 3px;
  font-weight: 600;
}
label .quiet {
  font-weight: 400;
  font-size: 14px;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 14px;
}
.pair :deep(.ant-input-number) {
  width: 100%;
}
p {
  margin: 0;
}
.good {
  color: var(--moss);
}
</style>
