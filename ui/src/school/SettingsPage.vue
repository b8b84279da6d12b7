<script setup lang="ts">
import { Button, Checkbox, InputNumber } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { answered } from '@/api/queries'
import { keys } from '@/api/keys'
import { changed, type SchoolTyped } from './school'
import SchoolFields from './SchoolFields.vue'
import { askMe } from '@/me'
import { useActing } from '@/parts/acting'
import { tellDone } from '@/tell'
import PostSettings from './PostSettings.vue'
import ServiceSettings from './ServiceSettings.vue'

/** What the whole school has in common, which the office says. */
const { t } = useI18n()
const queries = useQueryClient()
const { data: school } = useQuery({ queryKey: keys.school(), queryFn: () => data(api.GET('/school')) })
const typed = ref<SchoolTyped>()
watch(school, (s) => s && !typed.value && (typed.value = { ...s }), { immediate: true })
const to = computed(() => (typed.value && school.value ? changed(typed.value, school.value) : {}))
const dirty = computed(() => Object.keys(to.value).length > 0)
const { busy, problem, act } = useActing()
const keep = () =>
  act(async () => {
    const was = Object.fromEntries(Object.keys(to.value).map((k) => [k, school.value![k as keyof Of<'SchoolParts'>]]))
    const body = { to: to.value, was }
    const next = await answered(queries, keys.school(), () => data(api.PATCH('/school', { body })))
    typed.value = { ...next }
    await askMe()
    tellDone(t('school.kept'))
  })
</script>

<template>
  <div class="page">
    <div class="inner">
      <h1>{{ t('school.title') }}</h1>
      <p class="quiet">{{ t('school.text') }}</p>
      <form v-if="typed && school" data-form="school" @submit.prevent="keep">
        <div class="part">
          <SchoolFields v-model="typed" :fixed="school.fixed" />
          <label class="size"
            >{{ t('school.satchel')
            }}<InputNumber
              v-model:value="typed.satchelMB"
              :min="0"
              :max="1000000"
              :disabled="school.fixed.includes('satchelMB')"
              addon-after="MB"
            /><span class="quiet">{{ t('school.satchel-help') }}</span></label
          >
          <Checkbox v-model:checked="typed.officeCodes" data-act="office-codes">{{
            t('school.office-codes')
          }}</Checkbox>
          <Checkbox v-model:checked="typed.staffReset" :disabled="typed.officeCodes" data-act="staff-reset">{{
            t('school.staff-reset')
          }}</Checkbox>
          <Checkbox v-model:checked="typed.outsideMail" data-act="outside-mail">{{
            t('school.outside-mail')
          }}</Checkbox>
          <Checkbox v-model:checked="typed.listAccounts" data-act="list-accounts">{{
            t('school.list-accounts')
          }}</Checkbox>
        </div>
        <div class="part">
          <ServiceSettings v-model="typed" :school="school" />
          <PostSettings v-model="typed" :school="school" :dirty="dirty" />
        </div>
        <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
        <Button type="primary" html-type="submit" :loading="busy" :disabled="!dirty" data-act="keep-school">{{
          t('school.keep')
        }}</Button>
      </form>
    </div>
  </div>
</template>

<style scoped>
.page {
  overflow-y: auto;
  height: 100%;
  padding: 18px var(--edge) 32px;
}
.inner {
  max-width: 640px;
}
form,
.part {
  display: grid;
  gap: 14px;
  align-content: start;
}
form {
  margin-top: 14px;
}
@media (min-width: 1600px) {
  .inner {
    max-width: 1360px;
  }
  form {
    grid-template-columns: repeat(2, minmax(0, 1fr));
    column-gap: 64px;
  }
}
.size {
  display: grid;
  gap: 3px;
  font-weight: 600;
  max-width: 320px;
}
.size .quiet {
  font-weight: 400;
  font-size: 14px;
}
button[type='submit'] {
  justify-self: start;
}
</style>
