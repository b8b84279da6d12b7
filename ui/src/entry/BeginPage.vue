<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { computed, onMounted, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { api, data, ProblemError, type Of } from '@/api/client'
import { setMe } from '@/me'
import { useActing } from '@/parts/acting'
import BrandMark from '@/parts/BrandMark.vue'
import { sentence } from '@/tell'
import SchoolFields from '@/school/SchoolFields.vue'
import { changed, type SchoolTyped } from '@/school/school'

/** The first start: what the school is, and who its office is. The secret is behind the # and is sent once it is used. */
const { t } = useI18n()
const router = useRouter()
const secret = window.location.hash.slice(1)
const first = ref<Of<'FirstStart'>>()
const gone = ref(false)
const trouble = ref('')
const typed = ref<SchoolTyped>()
const given = ref('')
const family = ref('')
const address = ref('')
const password = ref('')
const mending = computed(() => !!first.value?.address)
onMounted(async () => {
  try {
    first.value = await data(api.POST('/first/address', { body: { secret } }))
    typed.value = {
      ...first.value.school,
      zone: first.value.school.name ? first.value.school.zone : Intl.DateTimeFormat().resolvedOptions().timeZone,
    }
    address.value = first.value.address
  } catch (e) {
    if (e instanceof ProblemError && e.status === 404) gone.value = true
    else trouble.value = sentence(e)
  }
})
const at = ref('') // the field that was refused
const { busy, problem, act } = useActing()
const begin = () =>
  act(async () => {
    at.value = ''
    try {
      const school = mending.value ? {} : changed(typed.value!, first.value!.school)
      const who = { given: given.value, family: family.value, address: address.value, password: password.value }
      setMe(await data(api.POST('/first', { body: { secret, school, ...who } })))
      await router.replace('/book')
    } catch (e) {
      if (e instanceof ProblemError) at.value = e.args.field ?? ''
      throw e
    }
  })
</script>

<template>
  <main class="page">
    <BrandMark />
    <template v-if="gone">
      <h1>{{ t('begin.gone') }}</h1>
      <p class="quiet">{{ t('begin.gone-text') }}</p>
      <RouterLink to="/sign-in">{{ t('signin.go') }}</RouterLink>
    </template>
    <p v-else-if="trouble" class="bad" role="alert">{{ trouble }}</p>
    <form v-else-if="typed && first" data-form="begin" @submit.prevent="begin">
      <h1>{{ t(mending ? 'begin.mend' : 'begin.title') }}</h1>
      <p class="quiet">{{ t(mending ? 'begin.mend-text' : 'begin.text') }}</p>
      <SchoolFields v-if="!mending" v-model="typed" :fixed="first.school.fixed" />
      <h2>{{ t('begin.office') }}</h2>
      <p v-if="!mending" class="quiet">{{ t('begin.office-text') }}</p>
      <div class="pair">
        <label
          >{{ t('book.given')
          }}<Input v-model:value="given" v-focus data-field="given" :maxlength="200" autocomplete="given-name"
        /></label>
        <label
          >{{ t('book.family')
          }}<Input v-model:value="family" data-field="family" :maxlength="200" autocomplete="family-name"
        /></label>
      </div>
      <label
        >{{ t('signin.address')
        }}<Input
          v-model:value="address"
          data-field="address"
          :disabled="mending"
          :maxlength="254"
          inputmode="email"
          autocomplete="username"
      /></label>
      <label
        >{{ t('password.new')
        }}<Input
          v-model:value="password"
          data-field="password"
          type="password"
          :maxlength="256"
          autocomplete="new-password"
      /></label>
      <p class="quiet small">{{ t('password.help') }}</p>
      <p v-if="problem" class="bad" role="alert" :data-at="at">{{ problem }}</p>
      <Button type="primary" html-type="submit" size="large" :loading="busy" data-act="begin">{{
        t(mending ? 'begin.mend-go' : 'begin.go')
      }}</Button>
    </form>
  </main>
</template>

<style scoped>
.page {
  max-width: 620px;
  margin: 0 auto;
  padding: 36px 24px 60px;
}
h1 {
  margin: 22px 0 6px;
}
h2 {
  margin: 18px 0 0;
}
form {
  display: grid;
  gap: 12px;
}
form > p {
  margin: 0;
}
label {
  display: grid;
  gap: 3px;
  font-weight: 600;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
.small {
  font-size: 14px;
}
button[type='submit'] {
  justify-self: start;
}
</style>
