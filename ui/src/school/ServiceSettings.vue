<script setup lang="ts">
import { Checkbox, Input } from 'ant-design-vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import type { SchoolTyped } from './school'

/** The school's own service that people sign in with. */
const typed = defineModel<SchoolTyped>({ required: true })
defineProps<{ school: Of<'School'> }>()
const { t } = useI18n()
const put = (part: Partial<Of<'ServiceSettings'>>) =>
  (typed.value = { ...typed.value, service: { ...typed.value.service, ...part } })
</script>

<template>
  <fieldset data-form="service">
    <legend class="display">{{ t('service.title') }}</legend>
    <label
      >{{ t('service.issuer')
      }}<Input
        :value="typed.service.issuer"
        data-field="service-issuer"
        :maxlength="300"
        placeholder="https://id.school.example"
        @update:value="(v: string) => put({ issuer: v })"
      /><span class="quiet">{{ t('service.issuer-help') }}</span></label
    >
    <template v-if="typed.service.issuer">
      <label
        >{{ t('service.client')
        }}<Input
          :value="typed.service.client"
          data-field="service-client"
          :maxlength="200"
          @update:value="(v: string) => put({ client: v })"
      /></label>
      <label
        >{{ t('service.name')
        }}<Input
          :value="typed.service.name"
          data-field="service-name"
          :maxlength="200"
          :placeholder="typed.name"
          @update:value="(v: string) => put({ name: v })"
      /></label>
      <p>
        {{ t('service.back') }} <code>{{ school.serviceBack }}</code>
      </p>
      <p class="quiet">{{ t(school.serviceReady ? 'service.secret-there' : 'service.secret-none') }}</p>
      <Checkbox
        :checked="typed.service.make"
        data-act="service-make"
        @update:checked="(v: boolean) => put({ make: v })"
        >{{ t('service.make') }}</Checkbox
      >
    </template>
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
fieldset > label:not(.ant-checkbox-wrapper) {
  display: grid;
  gap: 3px;
  font-weight: 600;
}
label .quiet {
  font-weight: 400;
  font-size: 14px;
}
code {
  overflow-wrap: anywhere;
}
p {
  margin: 0;
}
</style>
