<script setup lang="ts">
import { Button, Checkbox, Input } from 'ant-design-vue'
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { useActing } from '@/parts/acting'

/** The first sign-in: a code from a slip, good once, and a password of one's own. */
const props = defineProps<{ address: string }>()
const emit = defineEmits<{ entered: [Of<'Me'>]; back: [] }>()
const { t } = useI18n()
const address = ref(props.address)
const code = ref('')
const password = ref('')
const stay = ref(false)
const { busy, problem, act } = useActing()
const enter = () =>
  act(async () => {
    const body = { address: address.value, code: code.value, password: password.value, stay: stay.value }
    emit('entered', await data(api.POST('/session/first', { body })))
  })
</script>

<template>
  <form data-form="first-sign-in" @submit.prevent="enter">
    <p class="quiet">{{ t('signin.code-text') }}</p>
    <label for="first-address">{{ t('signin.address') }}</label>
    <Input id="first-address" v-model:value="address" v-focus size="large" autocomplete="username" inputmode="email" />
    <label for="first-code">{{ t('signin.code') }}</label>
    <Input id="first-code" v-model:value="code" size="large" autocomplete="one-time-code" placeholder="ABCDE-FGHJK" />
    <label for="first-password">{{ t('password.new') }}</label>
    <Input
      id="first-password"
      v-model:value="password"
      size="large"
      type="password"
      :maxlength="256"
      autocomplete="new-password"
    />
    <p class="quiet small">{{ t('password.help') }}</p>
    <Checkbox v-model:checked="stay">{{ t('signin.stay') }}</Checkbox>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
    <Button type="primary" html-type="submit" size="large" :loading="busy">{{ t('signin.first-go') }}</Button>
    <button type="button" class="link" @click="emit('back')">{{ t('signin.have-password') }}</button>
  </form>
</template>

<style scoped>
form {
  display: grid;
  gap: 6px;
}
label {
  font-weight: 600;
  margin-top: 8px;
}
.small {
  font-size: 14px;
  margin: 0;
}
.ant-checkbox-wrapper {
  margin: 10px 0 8px;
}
.link {
  justify-self: start;
  margin-top: 8px;
}
</style>
