<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import type { paths } from '@/api/schema.gen'
import { keys } from '@/api/keys'
import { me } from '@/me'
import { useActing } from '@/parts/acting'
import { tellDone } from '@/tell'
import PickOne from '@/parts/PickOne.vue'
import { useRested } from '@/parts/rested'
import BookAccount from './BookAccount.vue'
import BookList from './BookList.vue'
import BookTable from './BookTable.vue'
import CodeSlips from './CodeSlips.vue'
import { makeCodes } from './codes'

/** The school book: everybody's account. Staff look, the office changes. */
const { t } = useI18n()
const queries = useQueryClient()
const office = computed(() => me.value?.role === 'office')
const text = ref('')
const asked = useRested(text)
const role = ref('')
const standing = ref('')
const by = ref('')
const down = ref(false)
const from = ref(0)
watch([asked, role, standing, by, down], () => (from.value = 0))
// Anyone who was chosen among others isn't any more.
watch([asked, role, standing], () => (chosen.value = []))
type Query = NonNullable<paths['/book']['get']['parameters']['query']>
const wanted = computed<Query>(() => ({
  text: asked.value || undefined,
  role: (role.value || undefined) as Query['role'],
  standing: (standing.value || undefined) as Query['standing'],
}))
const query = computed<Query>(() => ({
  ...wanted.value,
  by: (by.value || undefined) as Query['by'],
  down: down.value || undefined,
  from: from.value,
}))
function sort(column: string) {
  down.value = by.value === column && !down.value
  by.value = column
}
const { data: page } = useQuery({
  queryKey: computed(() => keys.book(query.value)),
  queryFn: () => data(api.GET('/book', { params: { query: query.value } })),
  placeholderData: keepPreviousData,
})
const roles = computed(() => [
  { value: '', label: t('book.everybody') },
  ...(['student', 'staff', 'office'] as const).map((r) => ({ value: r, label: t(`book.role-${r}`) })),
])
const standings = computed(() => [
  { value: '', label: t('book.any-standing') },
  ...(['new', 'code', 'ready', 'off'] as const).map((r) => ({ value: r, label: t(`book.stands-${r}`) })),
])
const open = ref<Of<'BookAccount'> | 'new'>()
const listing = ref(false) // a list is brought in
const chosen = ref<string[]>([])
const choose = (ids: string[], on: boolean) =>
  (chosen.value = [...chosen.value.filter((x) => !ids.includes(x)), ...(on ? ids : [])])
const pageChosen = computed(() => page.value?.accounts.every((a) => a.off || chosen.value.includes(a.id)))
/** Chooses what is looked for beyond the page too, as many as something can be done with at once. */
const chooseAll = (only?: 'new') =>
  act(async () => {
    const found = await data(
      api.GET('/book/ids', { params: { query: only ? { ...wanted.value, standing: only } : wanted.value } }),
    )
    chosen.value = found.ids
    if (found.all > found.ids.length) tellDone(t('book.chosen-first', { n: found.ids.length, all: found.all }))
  })
const codes = ref<Of<'Code'>[]>([])
const { busy, problem, act } = useActing()
const give = (accounts: string[], away: boolean, mail = false) =>
  act(async () => {
    const made = await makeCodes((replace) =>
      data(api.POST('/book/codes', { body: { accounts, away, mail, replace } })),
    )
    if (!made) return
    if (mail) tellDone(t('mail.sent-n', { n: made.length }, made.length))
    else codes.value = made
    chosen.value = []
    await refresh()
  })
const refresh = () => queries.invalidateQueries({ queryKey: keys.book() })
async function kept() {
  open.value = undefined
  await refresh()
}
</script>

<template>
  <CodeSlips v-if="codes.length" :codes="codes" @close="codes = []" />
  <div v-else class="book">
    <div class="main">
      <header>
        <h1>{{ t('book.title') }}</h1>
        <span class="quiet">{{ page ? t('book.count', { n: page.all }, page.all) : '' }}</span>
        <span class="grow" />
        <Button v-if="office && !listing" data-act="book-list" @click="listing = true">{{
          t('book-list.bring-in')
        }}</Button>
        <Button v-if="office" type="primary" data-act="new-account" @click="open = 'new'">{{ t('book.new') }}</Button>
      </header>
      <BookList
        v-if="listing"
        @close="listing = false"
        @done="
          () => {
            listing = false
            void refresh()
          }
        "
      />
      <div class="bar">
        <Input v-model:value="text" class="find" :placeholder="t('book.find')" :aria-label="t('book.find')" />
        <PickOne v-model="role" :options="roles" :label="t('book.role')" />
        <PickOne v-if="office" v-model="standing" :options="standings" :label="t('book.signs-in')" />
        <button
          v-if="office && page?.new && !chosen.length"
          class="link"
          data-act="choose-new"
          @click="chooseAll('new')"
        >
          {{ t('book.choose-new', { n: page.new }, page.new) }}
        </button>
        <template v-if="office && chosen.length">
          <Button :disabled="busy" data-act="mail-codes" @click="give(chosen, false, true)">{{
            t('codes.mail-n', { n: chosen.length }, chosen.length)
          }}</Button>
          <Button :loading="busy" data-act="codes" @click="give(chosen, false)">{{
            t('book.give', { n: chosen.length }, chosen.length)
          }}</Button>
          <button
            v-if="pageChosen && page!.all > chosen.length"
            class="link"
            data-act="choose-all"
            @click="chooseAll()"
          >
            {{ t('book.choose-all', { n: page!.all }) }}
          </button>
          <button class="link" data-act="choose-none" @click="chosen = []">{{ t('book.choose-none') }}</button>
        </template>
      </div>
      <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
      <BookTable
        v-if="page?.accounts.length"
        :accounts="page.accounts"
        :chosen="chosen"
        :office="office"
        :by="by"
        :down="down"
        @choose="choose"
        @open="(a) => (open = a)"
        @sort="sort"
      />
      <section v-else-if="page" class="empty">
        <p>{{ t(text || role || standing ? 'book.nobody' : 'book.empty') }}</p>
      </section>
      <p v-if="page && (page.more || from)" class="pages">
        <button v-if="from" class="link" @click="from = Math.max(0, from - 100)">{{ t('book.before') }}</button>
        <button v-if="page.more" class="link" @click="from += 100">{{ t('book.after') }}</button>
      </p>
    </div>
    <BookAccount
      v-if="open"
      :key="open === 'new' ? 'new' : open.id"
      :account="open === 'new' ? undefined : open"
      @close="open = undefined"
      @kept="kept"
      @code="(id, away) => give([id], away)"
    />
  </div>
</template>

<style scoped>
.book {
  display: flex;
  height: 100%;
  min-height: 0;
}
.book > :deep(aside) {
  width: 380px;
  flex: none;
}
.main {
  flex: 1;
  min-width: 0;
  overflow: auto;
  padding: 18px var(--edge) 24px;
}
header,
.bar {
  display: flex;
  gap: 12px;
  align-items: baseline;
  margin-bottom: 12px;
  flex-wrap: wrap;
}
.bar {
  align-items: center;
}
.grow {
  flex: 1;
}
.find {
  width: 300px;
}
.pages {
  display: flex;
  gap: 18px;
  margin-top: 10px;
}
/* Beside an account there is less room, and its number is there. */
.book:has(> :deep(aside)) :deep(.number) {
  display: none;
}
@media (max-width: 760px) {
  .find {
    width: 100%;
  }
  .book > :deep(aside) {
    position: fixed;
    inset: 0;
    width: auto;
    z-index: 7;
  }
}
</style>
