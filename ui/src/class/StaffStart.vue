<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { useClasses } from '@/api/queries'
import { keys } from '@/api/keys'
import { useGreeting } from '@/greeting'
import { me } from '@/me'
import { useReasons } from '@/reasons'
import { tellProblem } from '@/tell'
import { today } from '@/when'
import CameOn from './CameOn.vue'
import FirstSteps from './FirstSteps.vue'
import { adding } from './adding'
import { remedyOf } from '@/packing/mending'

/** Today: what needs attention, over all classes. */
const { t } = useI18n()
const greeting = useGreeting()
const { noteText } = useReasons()
const { data: classes } = useClasses()
const queries = useQueryClient()
// What a teacher has as a member of a group of staff.
const { data: home } = useQuery({ queryKey: keys.home(), queryFn: () => data(api.GET('/home')) })
const groups = computed(() => (home.value?.classes ?? []).filter((c) => c.satchel || c.copies.length))
// How each class came on, in small.
const { data: weeks } = useQuery({ queryKey: keys.allWeeks(), queryFn: () => data(api.GET('/weeks')) })
const came = (id: string) => weeks.value?.find((w) => w.class === id)
// What an assistant sees but can't put right.
const forHands = ['students-unknown', 'students-waiting', 'students-missing', 'changes-waiting']
const date = today()
const busy = computed(() => (classes.value ?? []).filter((c) => c.attention || c.troubled))
const fresh = computed(() => (classes.value ?? []).filter((c) => !c.ready && !c.troubled))
const calm = computed(() => (classes.value ?? []).filter((c) => c.ready && !c.attention && !c.troubled))
const put = computed(() => (classes.value ?? []).reduce((n, c) => n + c.putOff, 0))
async function change(how: () => Promise<unknown>) {
  try {
    await how()
  } catch (e) {
    tellProblem(e)
  }
  await queries.invalidateQueries({ queryKey: keys.classes() })
}
const putOff = (classId: string, n: Of<'Note'>) =>
  change(() =>
    api.PUT('/classes/{classId}/put-off', {
      params: { path: { classId } },
      body: { code: n.code, about: n.about, count: n.count },
    }),
  )
const showAgain = () => change(() => api.DELETE('/me/put-off'))
</script>

<template>
  <div class="page">
    <header>
      <h1>{{ greeting(me?.name ?? '') }}</h1>
      <p class="quiet">
        {{ date }}
        <RouterLink v-if="me?.role === 'staff' && busy.length" :to="{ name: 'everywhere' }" class="all">{{
          t('everywhere.title')
        }}</RouterLink>
      </p>
    </header>
    <section v-if="busy.length">
      <h2>{{ t('today.attention') }}</h2>
      <article v-for="c in busy" :key="c.id">
        <div>
          <RouterLink :to="`/classes/${c.id}`" class="class display">{{ c.name }}</RouterLink>
          <p class="quiet">
            {{ t('class.count', { n: c.students }, c.students)
            }}<template v-if="c.period"> · {{ t('class.period-n', { period: c.period }) }}</template>
          </p>
          <CameOn v-if="c.ready" :came="came(c.id)" />
        </div>
        <ul>
          <li v-if="c.troubled"><i aria-hidden="true" />{{ t('today.troubled') }}</li>
          <li v-for="n in c.notes" :key="n.code + n.about" :data-note="n.code">
            <i aria-hidden="true" />
            <span>{{ noteText(n) }}</span>
            <span class="acts"
              ><RouterLink
                v-if="c.teach || !forHands.includes(n.code)"
                :to="remedyOf(c.id, n)"
                class="do"
                data-act="remedy"
                >{{ t(`today.do-${n.code}`) }}</RouterLink
              >
              <button class="link later" data-act="not-now" @click="putOff(c.id, n)">
                {{ t('today.not-now') }}
              </button></span
            >
          </li>
        </ul>
        <RouterLink :to="`/classes/${c.id}`"
          ><Button>{{ t('today.register') }}</Button></RouterLink
        >
      </article>
    </section>
    <section v-if="fresh.length">
      <h2>{{ t('today.not-set-up') }}</h2>
      <article v-for="c in fresh" :key="c.id">
        <div>
          <RouterLink :to="`/classes/${c.id}/roster`" class="class display">{{ c.name }}</RouterLink>
          <p class="quiet">{{ c.students ? t('class.count', { n: c.students }, c.students) : t('today.no-list') }}</p>
        </div>
        <p class="quiet">{{ c.students ? t('today.pack-room') : t('today.bring-list') }}</p>
        <RouterLink :to="`/classes/${c.id}/${c.students ? 'room' : 'roster'}`"
          ><Button type="primary">{{ c.students ? t('today.go-room') : t('today.go-list') }}</Button></RouterLink
        >
      </article>
    </section>
    <section v-if="calm.length">
      <h2>{{ t('today.calm') }}</h2>
      <article v-for="c in calm" :key="c.id">
        <div>
          <RouterLink :to="`/classes/${c.id}`" class="class display">{{ c.name }}</RouterLink>
          <p class="quiet">{{ t('class.count', { n: c.students }, c.students) }}</p>
          <CameOn v-if="c.ready" :came="came(c.id)" />
        </div>
        <p class="quiet">{{ t('today.all-well') }}</p>
        <RouterLink :to="`/classes/${c.id}`"
          ><Button>{{ t('today.register') }}</Button></RouterLink
        >
      </article>
    </section>
    <section v-if="groups.length">
      <h2>{{ t('today.yours') }}</h2>
      <article v-for="c in groups" :key="c.id" :data-group="c.name">
        <div>
          <span class="class display">{{ c.name }}</span>
          <p class="quiet">{{ c.staff.join(', ') }}</p>
        </div>
        <ul>
          <li v-for="k in c.copies" :key="k.thing">
            <RouterLink :to="`/things/${k.thing}`">{{ k.title }}</RouterLink>
          </li>
        </ul>
        <RouterLink v-if="c.satchel" :to="`/things/${c.satchel}`"
          ><Button>{{ t('panel.open-satchel') }}</Button></RouterLink
        >
      </article>
    </section>
    <p v-if="put" class="quiet">
      {{ t('today.put-off', { n: put }, put) }}
      <button class="link" data-act="show-again" @click="showAgain">{{ t('today.show-again') }}</button>
    </p>
    <section v-if="classes && !classes.length" class="empty">
      <h2>{{ t('today.empty') }}</h2>
      <FirstSteps next="class" @go="adding = true" />
    </section>
  </div>
</template>

<style scoped>
.all {
  margin-left: 14px;
}
.page {
  overflow-y: auto;
  padding: 18px var(--edge) 32px;
}
header {
  margin-bottom: 22px;
}
section {
  max-width: 1040px;
  margin-bottom: 26px;
}
h2 {
  padding-bottom: 8px;
  border-bottom: 1.5px solid var(--thread);
}
article {
  display: grid;
  grid-template-columns: 250px minmax(0, 1fr) auto;
  gap: 18px;
  align-items: center;
  padding: 11px 0;
  border-bottom: 1px solid var(--thread-2);
}
.class {
  font-size: 18px;
  color: var(--ink);
}
article p {
  font-size: 14px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: flex;
  gap: 8px;
  align-items: baseline;
}
li i {
  width: 9px;
  height: 9px;
  border-radius: 5px;
  background: var(--brass);
  flex: none;
}
li .acts {
  margin-left: auto;
  white-space: nowrap;
}
.do,
.later {
  display: inline-block;
  min-height: 24px;
  min-width: 24px;
  padding: 1px 2px;
}
.do {
  font-weight: 600;
}
.later {
  margin-left: 10px;
  font-size: 13.5px;
}
@media (max-width: 1000px) {
  article {
    grid-template-columns: 1fr;
    gap: 8px;
  }
}
@media (min-width: 1600px) {
  section {
    max-width: none;
    display: grid;
    grid-template-columns: repeat(2, minmax(0, 1fr));
    column-gap: 48px;
  }
  section > h2,
  section.empty > * {
    grid-column: 1 / -1;
  }
  article {
    grid-template-columns: 220px minmax(0, 1fr) auto;
  }
}
</style>
