<script setup lang="ts">
import { Button, Checkbox, Input } from 'ant-design-vue'
import { computed, onMounted, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { api, data, ProblemError, type Of } from '@/api/client'
import { me, setMe } from '@/me'
import BrandMark from '@/parts/BrandMark.vue'
import { sentence } from '@/tell'
import FirstSignIn from './FirstSignIn.vue'

const { t, te } = useI18n()
const route = useRoute()
const router = useRouter()
const address = ref('')
const password = ref('')
const stay = ref(false)
const problem = ref('')
const busy = ref(false)
const first = ref(false) // a code from a slip
const people = ref<Of<'DemoPerson'>[]>([])

function goOn() {
  const to = String(route.query.to ?? '/')
  void router.replace(to.startsWith('/') && !to.startsWith('//') ? to : '/')
}
if (me.value) goOn()

async function enter(how: () => Promise<Of<'Me'>>) {
  busy.value = true
  problem.value = ''
  try {
    setMe(await how())
    goOn()
  } catch (e) {
    problem.value = sentence(e)
    if (e instanceof ProblemError && e.code === 'refused') password.value = ''
  } finally {
    busy.value = false
  }
}
const signIn = () =>
  enter(() =>
    data(api.POST('/session', { body: { address: address.value, password: password.value, stay: stay.value } })),
  )
const be = (account: string) => enter(() => data(api.POST('/demo/session', { body: { account } })))

// The school's own service to sign in with, if it has one; anyone who comes back refused is told why.
const service = ref('')
const refused = String(route.query.refused ?? '')
if (refused) problem.value = te(`problem.${refused}`) ? t(`problem.${refused}`) : t('problem.internal')
const through = computed(
  () => `/api/session/service?to=${encodeURIComponent(String(route.query.to ?? '/'))}&stay=${stay.value}`,
)
onMounted(async () => {
  try {
    service.value = (await data(api.GET('/session/ways'))).service
  } catch {
    service.value = '' // passwords are asked for all the same
  }
  try {
    const r = await fetch('/api/demo/people')
    if (r.ok) people.value = await r.json()
  } catch {
    people.value = []
  }
})
</script>

<template>
  <main class="page">
    <section class="card">
      <BrandMark />
      <h1>{{ t('signin.title') }}</h1>
      <FirstSignIn v-if="first" :address="address" @entered="(m) => enter(async () => m)" @back="first = false" />
      <form v-else @submit.prevent="signIn">
        <label for="address">{{ t('signin.address') }}</label>
        <Input id="address" v-model:value="address" v-focus size="large" autocomplete="username" inputmode="email" />
        <label for="password">{{ t('signin.password') }}</label>
        <Input id="password" v-model:value="password" size="large" type="password" autocomplete="current-password" />
        <Checkbox v-model:checked="stay">{{ t('signin.stay') }}</Checkbox>
        <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
        <Button type="primary" html-type="submit" size="large" :loading="busy">{{ t('signin.go') }}</Button>
        <a v-if="service" class="service" :href="through" data-act="service">{{
          t('service.go', { name: service })
        }}</a>
        <button type="button" class="link code" data-act="first" @click="first = true">
          {{ t('signin.have-code') }}
        </button>
      </form>
    </section>
    <section v-if="people.length" class="demo">
      <h2>{{ t('signin.demo') }}</h2>
      <p class="quiet">{{ t('signin.demo-text') }}</p>
      <ul>
        <li v-for="p in people" :key="p.account">
          <button class="plain person" :data-person="p.account" @click="be(p.account)">
            <span class="strong">{{ p.name }}</span>
            <span class="quiet">{{ te(`demo.${p.about}`) ? t(`demo.${p.about}`) : t(`role.${p.role}`) }}</span>
          </button>
        </li>
      </ul>
    </section>
  </main>
</template>

<style scoped>
.page {
  min-height: 100%;
  display: flex;
  flex-wrap: wrap;
  gap: 56px;
  align-items: center;
  justify-content: center;
  padding: 40px 24px;
}
.card {
  width: 348px;
}
h1 {
  margin: 26px 0 16px;
}
.service {
  margin-top: 8px;
  text-align: center;
  border: 1px solid var(--leather);
  border-radius: 6px;
  padding: 8px;
  font-weight: 600;
  color: var(--leather-2);
}
form {
  display: grid;
  gap: 6px;
}
label {
  font-weight: 600;
  margin-top: 8px;
}
form .ant-checkbox-wrapper {
  margin: 10px 0 8px;
  font-weight: 400;
}
.code {
  justify-self: start;
  margin-top: 8px;
}
.demo {
  width: 388px;
  border-left: 2px solid var(--brass);
  padding-left: 28px;
}
.demo p {
  margin: 6px 0 14px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
.person {
  display: grid;
  width: 100%;
  padding: 7px 10px;
  margin-left: -10px;
  border-bottom: 1px solid var(--thread-2);
  line-height: 1.3;
}
.person:hover {
  background: var(--leather-soft);
}
</style>
