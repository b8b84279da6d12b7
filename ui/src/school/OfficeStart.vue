<script setup lang="ts">
import { Button, Checkbox, Input } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useGreeting } from '@/greeting'
import { me } from '@/me'
import { useActing } from '@/parts/acting'
import { useRested } from '@/parts/rested'
import { useReasons } from '@/reasons'
import { tellDone } from '@/tell'
import { today } from '@/when'
import { remedyOf } from '@/packing/mending'
import TermList from './TermList.vue'

/** All classes of the school, with what is missing or stuck in each; the office joins one by an act that its staff see. */
const { t } = useI18n()
const greeting = useGreeting()
const { noteText } = useReasons()
const queries = useQueryClient()
const text = ref('')
const asked = useRested(text)
const needing = ref(false)
const from = ref(0)
watch([asked, needing], () => (from.value = 0))
const { data: page } = useQuery({
  queryKey: computed(() => keys.allClasses(asked.value, needing.value, from.value)),
  queryFn: () =>
    data(
      api.GET('/office/classes', {
        params: { query: { text: asked.value || undefined, needing: needing.value || undefined, from: from.value } },
      }),
    ),
  placeholderData: (old) => old,
  refetchInterval: 30_000,
})
const { data: mine } = useQuery({ queryKey: keys.classes(), queryFn: () => data(api.GET('/classes')) })
const joined = computed(() => new Set((mine.value ?? []).map((c) => c.id)))
const { busy, problem, act } = useActing()
const term = ref(false) // a new term is brought in
async function brought() {
  term.value = false
  await queries.invalidateQueries({ queryKey: keys.allClasses() })
}
const asking = ref('') // the class that is about to be joined
const join = (c: Of<'ClassTag'>, role: 'teacher' | 'assistant' | 'none') =>
  act(async () => {
    await api.PUT('/classes/{classId}/join', { params: { path: { classId: c.id } }, body: { role } })
    asking.value = ''
    tellDone(t(`office.done-${role}`, { name: c.name }))
    await queries.invalidateQueries({ queryKey: keys.classes() })
    await queries.invalidateQueries({ queryKey: keys.allClasses() })
  })
</script>

<template>
  <div class="page">
    <header>
      <h1>{{ greeting(me?.name ?? '', true) }}</h1>
      <p class="quiet">
        {{ today()
        }}<template v-if="page"> · {{ t('office.count', { n: page.all.toLocaleString() }, page.all) }}</template>
      </p>
    </header>
    <h2>{{ t('office.title') }}</h2>
    <div class="head">
      <Input
        v-model:value="text"
        class="find"
        :placeholder="t('office.find')"
        :aria-label="t('office.find')"
        :maxlength="200"
        allow-clear
      />
      <Checkbox v-model:checked="needing" data-act="needing">{{ t('office.needing') }}</Checkbox>
      <span class="grow" />
      <Button data-act="term" @click="term = !term">{{ t('term.open') }}</Button>
    </div>
    <TermList v-if="term" @done="brought" @close="term = false" />
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
    <table v-if="page?.classes.length">
      <thead>
        <tr>
          <th>{{ t('office.class') }}</th>
          <th>{{ t('office.staff') }}</th>
          <th class="n">{{ t('office.students') }}</th>
          <th>{{ t('office.needs') }}</th>
          <th />
        </tr>
      </thead>
      <tbody>
        <tr v-for="c in page.classes" :key="c.id" :data-class="c.name">
          <td>
            <RouterLink :to="`/classes/${c.id}`" class="name">{{ c.name }}</RouterLink>
            <span class="quiet"> {{ c.code }}</span>
          </td>
          <td>
            <bdi>{{ c.staff[0] }}</bdi><span
              v-if="c.staff.length > 1"
              class="quiet more"
              :title="c.staff.slice(1).join(', ')"
            >
              {{ t('office.more-staff', { n: c.staff.length - 1 }) }}</span
            >
          </td>
          <td class="n">
            {{ c.students }} <span class="narrow">{{ t('office.students').toLowerCase() }}</span>
          </td>
          <td>
            <ul v-if="c.notes.length || c.troubled">
              <li v-if="c.troubled">{{ t('today.troubled') }}</li>
              <li v-for="n in c.notes" :key="n.code + n.about">
                {{ noteText(n) }}
                {{ ' '
                }}<RouterLink v-if="joined.has(c.id)" :to="remedyOf(c.id, n)">{{ t(`today.do-${n.code}`) }}</RouterLink>
              </li>
            </ul>
            <span v-else class="quiet">{{ t(c.ready ? 'office.well' : 'office.not-yet') }}</span>
          </td>
          <td class="acts">
            <template v-if="joined.has(c.id)"
              ><button class="link" :disabled="busy" data-act="leave" @click="join(c, 'none')">
                {{ t('office.leave') }}
              </button></template
            >
            <button v-else-if="asking !== c.id" class="link" data-act="ask-join" @click="asking = c.id">
              {{ t('office.join') }}
            </button>
            <div v-else class="ask">
              <span class="quiet">{{ t('office.join-text') }}</span>
              <Button size="small" :loading="busy" data-act="join-assistant" @click="join(c, 'assistant')">{{
                t('staff.add-assistant')
              }}</Button>
              <Button size="small" :loading="busy" data-act="join-teacher" @click="join(c, 'teacher')">{{
                t('staff.add-teacher')
              }}</Button>
              <button class="link" @click="asking = ''">{{ t('act.cancel') }}</button>
            </div>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-else-if="page" class="quiet">{{ t(asked || needing ? 'office.none-like' : 'office.none') }}</p>
    <p v-if="page && (from || page.more)" class="turn">
      <Button v-if="from" size="small" @click="from -= 50">{{ t('office.before') }}</Button>
      <Button v-if="page.more" size="small" @click="from += 50">{{ t('office.after') }}</Button>
    </p>
  </div>
</template>

<style scoped>
.page {
  overflow-y: auto;
  padding: 18px var(--edge) 32px;
}
h2 {
  margin-top: 20px;
}
.head {
  display: flex;
  gap: 18px;
  align-items: center;
  flex-wrap: wrap;
  margin: 14px 0;
}
.find {
  width: 320px;
}
table {
  border-collapse: collapse;
  width: 100%;
  font-size: 14.5px;
}
th {
  text-align: left;
  color: var(--ink-2);
  font-weight: 650;
  padding: 4px 14px 4px 0;
}
td {
  border-top: 1px solid var(--thread-2);
  padding: 6px 14px 6px 0;
  vertical-align: top;
}
.n {
  text-align: right;
}
.name {
  font-weight: 600;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
.more {
  margin-left: 0.4em;
}
.acts {
  text-align: right;
  min-width: 110px;
}
.ask {
  display: grid;
  gap: 6px;
  justify-items: end;
  max-width: 260px;
}
.narrow {
  display: none;
}
.turn {
  display: flex;
  gap: 8px;
  margin-top: 14px;
}
@media (max-width: 760px) {
  thead {
    display: none;
  }
  .narrow {
    display: inline;
  }
  tr {
    display: grid;
    border-top: 1px solid var(--thread-2);
    padding: 8px 0;
  }
  td,
  .n,
  .acts {
    border: 0;
    padding: 1px 0;
    text-align: left;
  }
  .ask {
    justify-items: start;
  }
}
</style>
