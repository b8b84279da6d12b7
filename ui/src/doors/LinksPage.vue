<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useJoinDoor } from '@/api/queries'
import { useActing } from '@/parts/acting'
import PickOne from '@/parts/PickOne.vue'
import { plainName } from '@/parts/plainName'
import { tellDone } from '@/tell'
import CodeSlips from '@/school/CodeSlips.vue'
import { makeCodes } from '@/school/codes'
import JoinDoor from '@/roster/JoinDoor.vue'
import { useClass } from '@/class/theClass'

/** The ways in: one front door for all, a link for each, and slips of them to print. */
const { classId, mayPack } = useClass()
const { t } = useI18n()
const handout = ref('')
const find = ref('')
const path = computed(() => ({ classId: classId.value }))
const { data: handouts } = useQuery({
  queryKey: computed(() => keys.handouts(classId.value)),
  queryFn: () => data(api.GET('/classes/{classId}/handouts', { params: { path: path.value } })),
})
const { data: list, isFetched: listCame } = useQuery({
  queryKey: computed(() => keys.links(classId.value, handout.value)),
  queryFn: () =>
    data(
      api.GET('/classes/{classId}/links', {
        params: { path: path.value, query: { handout: handout.value || undefined } },
      }),
    ),
  placeholderData: (old) => old,
})
// All of it is shown at once: what came later would move the rest under a hand.
const { isFetched: doorCame } = useJoinDoor(classId)
const options = computed(() => [
  { value: '', label: t('links.satchels') },
  ...(handouts.value ?? []).filter((h) => h.packedAt).map((h) => ({ value: h.id, label: h.title })),
])
const shown = computed(() =>
  (list.value?.links ?? []).filter((l) =>
    `${l.student} ${l.name}`.toLocaleLowerCase().includes(find.value.trim().toLocaleLowerCase()),
  ),
)
async function copy(text: string, what: string) {
  await navigator.clipboard.writeText(text)
  tellDone(what)
}
const all = () =>
  copy(
    shown.value.map((l) => [l.student || l.name, l.link].join('\t')).join('\n'),
    t('links.copied-n', { n: shown.value.length }, shown.value.length),
  )
// Anyone who never signed in gets a slip with a code to set a password with.
const codes = ref<Of<'Code'>[]>([])
const { busy, problem, act: acting } = useActing()
const give = (mail: boolean) =>
  acting(async () => {
    const made = await makeCodes((replace) =>
      data(
        api.POST('/classes/{classId}/codes', {
          params: { path: path.value },
          body: { rows: [], away: false, mail, replace },
        }),
      ),
    )
    if (!made) return
    if (mail) tellDone(t('mail.sent-n', { n: made.length }, made.length))
    else codes.value = made
  })
const file = (format: string) =>
  `/api/classes/${classId.value}/links/export/${format}${handout.value ? `?handout=${handout.value}` : ''}`
</script>

<template>
  <CodeSlips v-if="codes.length" :codes="codes" @close="codes = []" />
  <div v-else-if="listCame && doorCame" class="doors">
    <p class="back">
      <RouterLink :to="{ name: 'doors', params: { classId } }" data-act="door-check">{{ t('links.back') }}</RouterLink>
    </p>
    <div class="cards">
      <section class="door">
        <h2>{{ t('links.front') }}</h2>
        <p class="quiet">{{ t('links.front-text') }}</p>
        <div v-if="list" class="row">
          <code data-door>{{ list.door }}</code>
          <Button size="small" data-act="copy-door" @click="copy(list.door, t('links.copied'))">{{
            t('links.copy')
          }}</Button>
        </div>
      </section>
      <JoinDoor :class-id="classId" :may-change="mayPack" />
      <section v-if="mayPack" class="door">
        <h2>{{ t('codes.title') }}</h2>
        <p class="quiet">{{ t('codes.text') }}</p>
        <div class="row">
          <Button size="small" :loading="busy" data-act="class-codes" @click="give(false)">{{
            t('codes.make')
          }}</Button>
          <Button size="small" :disabled="busy" data-act="mail-codes" @click="give(true)">{{ t('codes.mail') }}</Button>
        </div>
        <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
      </section>
    </div>
    <div class="row head">
      <PickOne v-model="handout" :options="options" :label="t('links.of')" class="of" />
      <Input v-model:value="find" class="find" :placeholder="t('register.find')" :aria-label="t('register.find')" />
      <span class="grow" />
      <Button size="small" :disabled="!shown.length" @click="all">{{ t('links.copy-all') }}</Button>
      <RouterLink :to="{ name: 'slips', params: { classId }, query: handout ? { handout } : {} }" data-act="slips">{{
        t('links.slips')
      }}</RouterLink>
      <span class="quiet">{{ t('log.export') }}</span>
      <a v-for="f in ['csv', 'xlsx', 'ods']" :key="f" :href="file(f)" download>{{ f.toUpperCase() }}</a>
    </div>
    <div class="links" :class="{ many: shown.length > 8 }">
      <table data-table="links">
        <tbody>
          <tr v-for="l in shown.slice(0, 500)" :key="l.link">
            <td class="who">
              <bdi>{{ l.student || l.name }}</bdi>
            </td>
            <td>
              <a :href="l.link"
                ><bdi>{{ l.row ? plainName(l.name) : t('links.place') }}</bdi></a
              >
            </td>
            <td class="act">
              <button
                class="link"
                :aria-label="t('links.copy-of', { name: l.student || l.name })"
                @click="copy(l.link, t('links.copied'))"
              >
                {{ t('links.copy') }}
              </button>
            </td>
          </tr>
        </tbody>
      </table>
    </div>
    <p v-if="shown.length > 500" class="quiet">{{ t('room.more', { n: shown.length - 500 }) }}</p>
    <p v-if="list && !list.links.length" class="quiet">{{ t('links.none') }}</p>
  </div>
</template>

<style scoped>
.doors {
  padding: 14px var(--edge) 24px;
  overflow-y: auto;
  min-height: 0;
}
.door {
  background: var(--sheet);
  border: 1px solid var(--thread);
  border-radius: 8px;
  padding: 14px 18px;
  display: grid;
  gap: 6px;
  align-content: start;
}
.cards {
  display: grid;
  gap: 16px;
  margin-bottom: 16px;
}
@media (min-width: 1600px) {
  .cards {
    grid-template-columns: repeat(auto-fit, minmax(420px, 1fr));
  }
  .links.many {
    columns: 2;
    column-gap: 48px;
  }
  tr {
    break-inside: avoid;
  }
}
.back {
  margin-bottom: 10px;
}
.row {
  display: flex;
  gap: 12px;
  align-items: center;
  flex-wrap: wrap;
}
.head {
  margin-bottom: 8px;
}
code {
  font-size: 14px;
  overflow-wrap: anywhere;
}
.of {
  min-width: 200px;
}
.find {
  width: 200px;
}
table {
  border-collapse: collapse;
  width: 100%;
  font-size: 14.5px;
}
td {
  border-top: 1px solid var(--thread-2);
  padding: 4px 12px 4px 0;
}
.who {
  width: 34%;
  font-weight: 600;
}
.act {
  text-align: right;
}
</style>
