<script setup lang="ts">
import { Button, Input, InputNumber } from 'ant-design-vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { me } from '@/me'
import { useActing } from '@/parts/acting'
import { useRested } from '@/parts/rested'
import { tellDone } from '@/tell'
import { ago, exact } from '@/when'

/** The stand-in for mail: every mail that came, to be read, and what it is told to suffer. */
const { t } = useI18n()
const route = useRoute()
const find = ref('')
const asked = useRested(find)
const older = ref<Of<'PostMail'>[]>([])
const before = ref(0)
const { data: room, error } = useQuery({
  queryKey: computed(() => keys.postroom(asked.value, before.value)),
  queryFn: () =>
    data(
      api.GET('/postroom', {
        params: { query: { text: asked.value || undefined, before: before.value || undefined } },
      }),
    ),
  placeholderData: (old) => old,
  refetchInterval: 3000,
})
watch(asked, () => {
  older.value = []
  before.value = 0
})
const mails = computed(() => [...older.value, ...(room.value?.mails ?? [])])
function more() {
  older.value = mails.value
  before.value = mails.value.at(-1)?.n ?? 0
}
const open = computed(() => Number(route.params.mail) || 0)
const { data: letter } = useQuery({
  queryKey: computed(() => keys.mail(open.value)),
  enabled: computed(() => open.value > 0),
  queryFn: () => data(api.GET('/postroom/{mailNumber}', { params: { path: { mailNumber: open.value } } })),
})
/** The text in pieces, those that lead somewhere as links. */
const pieces = computed(() => (letter.value?.text ?? '').split(/(https?:\/\/\S+)/))
const weather = ref<Of<'PostWeather'>>()
watch(room, (r) => r && !weather.value && (weather.value = { ...r.weather }), { immediate: true })
const { busy, problem, act } = useActing()
const set = (w: Of<'PostWeather'>) =>
  act(async () => {
    weather.value = await data(api.PUT('/postroom', { body: w }))
    tellDone(t('standins.done'))
  })
</script>

<template>
  <div class="page">
    <h1>{{ t('postroom.title') }}</h1>
    <p class="quiet">{{ t('postroom.text') }}</p>
    <p v-if="error" class="bad" role="alert">{{ t('postroom.none') }}</p>
    <form v-if="me?.standins && weather && room" class="weather" @submit.prevent="set(weather!)">
      <label
        >{{ t('postroom.refuses')
        }}<InputNumber
          size="small"
          :value="Math.round(weather.refuses * 100)"
          :min="0"
          :max="90"
          addon-after="%"
          @update:value="(v) => (weather!.refuses = Number(v ?? 0) / 100)"
      /></label>
      <label
        >{{ t('postroom.lost')
        }}<InputNumber
          size="small"
          :value="Math.round(weather.lost * 100)"
          :min="0"
          :max="90"
          addon-after="%"
          @update:value="(v) => (weather!.lost = Number(v ?? 0) / 100)"
      /></label>
      <label
        >{{ t('postroom.delay')
        }}<InputNumber v-model:value="weather.delay" size="small" :min="0" :max="10000" :step="50" addon-after="ms"
      /></label>
      <Button size="small" html-type="submit" :loading="busy" data-act="post-weather">{{ t('standins.set') }}</Button>
      <Button size="small" :disabled="busy" @click="set({ refuses: 0, lost: 0, delay: 0 })">{{
        t('standins.calm')
      }}</Button>
      <span v-if="problem" class="bad" role="alert">{{ problem }}</span>
    </form>
    <div v-if="room" class="two">
      <section>
        <div class="head">
          <Input v-model:value="find" :placeholder="t('postroom.find')" :aria-label="t('postroom.find')" allow-clear />
          <span class="quiet">{{ t('postroom.all', { n: room.all.toLocaleString() }, room.all) }}</span>
        </div>
        <ul>
          <li v-for="m in mails" :key="m.n">
            <RouterLink :to="{ name: 'postroom', params: { mail: m.n } }" :class="{ on: m.n === open }">
              <strong>{{ m.subject }}</strong>
              <span class="quiet"
                >{{ m.mailbox }} · <span :title="exact(Date.parse(m.at))">{{ ago(Date.parse(m.at), t) }}</span><template
                  v-if="m.came > 1"
                >
                  · {{ t('postroom.came', { n: m.came }) }}</template
                ></span
              >
            </RouterLink>
          </li>
        </ul>
        <p v-if="!mails.length" class="quiet">{{ t(room.all ? 'postroom.nothing-like' : 'postroom.empty') }}</p>
        <Button v-if="room.more" size="small" @click="more">{{ t('log.more') }}</Button>
      </section>
      <article v-if="open && letter" data-letter>
        <h2>{{ letter.subject }}</h2>
        <dl>
          <dt>{{ t('postroom.from') }}</dt>
          <dd>{{ letter.from }}</dd>
          <dt>{{ t('postroom.to') }}</dt>
          <dd>{{ letter.to }}</dd>
          <template v-if="letter.reply"
            ><dt>{{ t('postroom.reply') }}</dt>
            <dd>{{ letter.reply }}</dd></template
          >
          <dt>{{ t('postroom.at') }}</dt>
          <dd>{{ exact(Date.parse(letter.at)) }}</dd>
        </dl>
        <div class="body">
          <template v-for="(p, i) in pieces" :key="i"
            ><a v-if="i % 2" :href="p">{{ p }}</a
            ><template v-else>{{ p }}</template></template
          >
        </div>
        <a :href="`/api/postroom/${letter.n}/eml`" download>{{ t('postroom.eml') }}</a>
      </article>
    </div>
  </div>
</template>

<style scoped>
.page {
  padding: 18px var(--edge) 24px;
  overflow-y: auto;
  min-height: 0;
}
.weather {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 16px;
  align-items: end;
  margin: 10px 0 16px;
  font-size: 14px;
}
.weather label {
  display: grid;
  gap: 2px;
}
.weather :deep(.ant-input-number-group-wrapper) {
  width: 120px;
}
.two {
  display: grid;
  grid-template-columns: minmax(280px, 400px) minmax(0, 1fr);
  gap: 28px;
  align-items: start;
}
.head {
  display: flex;
  gap: 10px;
  align-items: center;
  margin-bottom: 8px;
  white-space: nowrap;
}
ul {
  list-style: none;
  margin: 0 0 10px;
  padding: 0;
}
li a {
  display: grid;
  padding: 6px 8px;
  border-top: 1px solid var(--thread-2);
  color: var(--ink);
  overflow-wrap: anywhere;
}
li a.on {
  background: var(--leather-soft);
}
li a .quiet {
  font-size: 13.5px;
}
article {
  background: var(--sheet);
  border: 1px solid var(--thread);
  border-radius: 6px;
  padding: 14px 18px 16px;
  min-width: 0;
}
dl {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: 2px 12px;
  font-size: 14px;
  margin: 6px 0 12px;
  padding-bottom: 10px;
  border-bottom: 1px solid var(--thread);
}
dt {
  color: var(--ink-2);
}
dd {
  margin: 0;
  overflow-wrap: anywhere;
}
.body {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  margin-bottom: 14px;
}
.body a {
  text-decoration: underline;
}
@media (max-width: 900px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
