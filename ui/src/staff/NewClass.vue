<script setup lang="ts">
import { Input, Modal } from 'ant-design-vue'
import { useQueryClient } from '@tanstack/vue-query'
import { ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { api, data } from '@/api/client'
import { sentence } from '@/tell'

const open = defineModel<boolean>('open', { required: true })
const { t } = useI18n()
const router = useRouter()
const queries = useQueryClient()
const name = ref('')
const period = ref('')
const problem = ref('')
const busy = ref(false)

watch(open, () => (name.value = period.value = problem.value = ''))

async function practise() {
  busy.value = true
  try {
    const c = await data(api.POST('/practice'))
    await queries.invalidateQueries({ queryKey: ['classes'] })
    open.value = false
    void router.push(`/classes/${c.id}/roster`)
  } catch (e) {
    problem.value = sentence(e)
  } finally {
    busy.value = false
  }
}
async function hang() {
  busy.value = true
  try {
    const c = await data(api.POST('/classes', { body: { name: name.value, period: period.value } }))
    await queries.invalidateQueries({ queryKey: ['classes'] })
    open.value = false
    void router.push(`/classes/${c.id}/roster`)
  } catch (e) {
    problem.value = sentence(e)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <Modal
    v-model:open="open"
    :title="t('class.hang')"
    :ok-text="t('class.hang-it')"
    :cancel-text="t('act.cancel')"
    :confirm-loading="busy"
    @ok="hang"
  >
    <form class="form" @submit.prevent="hang">
      <label for="class-name">{{ t('class.name') }}</label>
      <Input id="class-name" v-model:value="name" :placeholder="t('class.name-example')" :maxlength="120" autofocus />
      <label for="class-period"
        >{{ t('class.period') }} <span class="faint">{{ t('act.optional') }}</span></label
      >
      <Input id="class-period" v-model:value="period" :maxlength="20" />
      <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
      <p class="practice">
        <button type="button" class="link" data-act="practise" @click="practise">{{ t('practice.make') }}</button>
        <span class="faint"> {{ t('practice.text') }}</span>
      </p>
      <input type="submit" hidden />
    </form>
  </Modal>
</template>

<style scoped>
.form {
  display: grid;
  gap: 6px;
}
label {
  font-weight: 600;
  margin-top: 8px;
}
.practice {
  margin-top: 10px;
  font-size: 14px;
}
label .faint {
  font-weight: 400;
}
</style>
