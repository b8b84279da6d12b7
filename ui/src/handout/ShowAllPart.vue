<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data } from '@/api/client'
import { useClass } from '@/class/theClass'
import { useActing } from '@/parts/acting'
import { tellDone } from '@/tell'
import { usualDue, wall } from '@/when'
import type { Hand } from './handout'

/** Everybody's copies kept as they are, to be looked at: now, or at a set time. */
const props = defineProps<{ hand: Hand }>()
const { h, path, problems, change } = props.hand
const { mayPack } = useClass()
const { t } = useI18n()
const { busy, problem, act } = useActing()
const saying = ref(false)
const at = ref('')
const now = computed(() => h.value?.show ?? '')
const keep = () =>
  act(async () => {
    const kept = await data(
      api.POST('/classes/{classId}/handouts/{handoutId}/shown', { params: path.value, body: { rows: [] } }),
    )
    tellDone(t('shown.all-done', { n: kept.copies }, kept.copies))
  })
function begin() {
  at.value = now.value || usualDue()
  saying.value = true
}
async function say(to: string) {
  await change({ show: to }, 'show')
  saying.value = false
}
</script>

<template>
  <div v-if="h?.packedAt && !h.withdrawnAt && (mayPack || now)" class="keep" data-part="show">
    <button v-if="mayPack" class="link" :disabled="busy" data-act="show-all" @click="keep">{{ t('shown.all') }}</button>
    <span v-if="!saying" class="quiet">
      <template v-if="now">{{ t('shown.at-time') }} {{ wall(now) }}.</template>
      <button v-if="mayPack" class="link" data-act="show-at" @click="begin">
        {{ now ? t('class.edit') : t('shown.at-none') }}
      </button>
    </span>
    <form v-else @submit.prevent="say(at)">
      <label
        >{{ t('shown.at-time') }} <input v-model="at" type="datetime-local" class="field" required data-field="show"
      /></label>
      <Button size="small" html-type="submit" data-act="show-at-say">{{ t('act.done') }}</Button>
      <Button v-if="now" size="small" type="text" @click="say('')">{{ t('shown.at-drop') }}</Button>
    </form>
  </div>
  <p v-if="problem || problems.show" class="bad" role="alert">{{ problem || problems.show }}</p>
</template>

<style scoped>
.keep {
  font-size: 14.5px;
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
}
form {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: center;
}
</style>
