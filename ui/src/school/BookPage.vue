<script setup lang="ts">
import { Button, Checkbox, Input } from 'ant-design-vue'
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { me } from '@/me'
import { useActing } from '@/parts/acting'
import { tellDone } from '@/tell'
import PickOne from '@/parts/PickOne.vue'
import { useRested } from '@/parts/rested'
import BookAccount from './BookAccount.vue'
import BookList from './BookList.vue'
import CodeSlips from './CodeSlips.vue'
import { makeCodes } from './codes'

/** The school book: everybody's account. Staff look, the office changes. */
const { t } = useI18n()
const queries = useQueryClient()
const office = computed(() => me.value?.role === 'office')
const text = ref('')
const asked = useRested(text)
const role = ref('')
const from = ref(0)
watch([asked, role], () => (from.value = 0))
const { data: page } = useQuery({
  queryKey: computed(() => keys.book(asked.value, role.value, from.value)),
  queryFn: () =>
    data(
      api.GET('/book', {
        params: {
          query: {
            text: asked.value || undefined,
            role: (role.value || undefined) as Of<'BookAccount'>['role'] | undefined,
            from: from.value,
          },
        },
      }),
    ),
  placeholderData: keepPreviousData,
})
const withoutPassword = computed(
  () => page.value?.accounts.filter((a) => !a.off && !a.ready && !a.codeUntil).map((a) => a.id) ?? [],
)
const roles = computed(() => [
  { value: '', label: t('book.everybody') },
  ...(['student', 'staff', 'office'] as const).map((r) => ({ value: r, label: t(`book.role-${r}`) })),
])
const open = ref<Of<'BookAccount'> | 'new'>()
const listing = ref(false) // a list is brought in
const chosen = ref<string[]>([])
const tick = (id: string, on: boolean) =>
  (chosen.value = on ? [...chosen.value, id] : chosen.value.filter((x) => x !== id))
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
const stand = (a: Of<'BookAccount'>) =>
  a.off ? t('book.off') : a.codeUntil ? t('book.code') : a.ready ? t('book.ready') : t('book.none')
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
        <button
          v-if="office && withoutPassword.length && !chosen.length"
          class="link"
          data-act="choose-new"
          @click="chosen = withoutPassword"
        >
          {{ t('book.choose-new', { n: withoutPassword.length }, withoutPassword.length) }}
        </button>
        <template v-if="office && chosen.length">
          <Button :disabled="busy" data-act="mail-codes" @click="give(chosen, false, true)">{{
            t('codes.mail-n', { n: chosen.length }, chosen.length)
          }}</Button>
          <Button :loading="busy" data-act="codes" @click="give(chosen, false)">{{
            t('book.give', { n: chosen.length }, chosen.length)
          }}</Button>
        </template>
      </div>
      <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
      <table v-if="page?.accounts.length">
        <thead>
          <tr>
            <th v-if="office" class="x" />
            <th>{{ t('book.name') }}</th>
            <th>{{ t('signin.address') }}</th>
            <th class="more number">{{ t('book.number') }}</th>
            <th class="more">{{ t('book.role') }}</th>
            <th>{{ t('book.signs-in') }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="a in page.accounts" :key="a.id" :class="{ off: a.off }" :data-account="a.address">
            <td v-if="office" class="x">
              <Checkbox
                :checked="chosen.includes(a.id)"
                :disabled="a.off"
                :aria-label="t('book.choose', { name: `${a.given} ${a.family}` })"
                @update:checked="(on: boolean) => tick(a.id, on)"
              />
            </td>
            <td>
              <button v-if="office" class="link name" @click="open = a">
                <bdi>{{ a.family ? `${a.family}, ${a.given}` : a.given }}</bdi>
              </button>
              <bdi v-else>{{ a.family ? `${a.family}, ${a.given}` : a.given }}</bdi>
            </td>
            <td>{{ a.address }}</td>
            <td class="more number">{{ a.number }}</td>
            <td class="more">{{ t(`role.${a.role}`) }}</td>
            <td class="quiet">{{ stand(a) }}</td>
          </tr>
        </tbody>
      </table>
      <section v-else-if="page" class="empty">
        <p>{{ t(text || role ? 'book.nobody' : 'book.empty') }}</p>
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
  padding: 18px 24px 24px;
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
table {
  width: 100%;
  border-collapse: collapse;
  font-size: 14px;
}
th {
  text-align: left;
  font-size: 13px;
  border-bottom: 1px solid var(--thread);
  padding: 4px 8px 4px 0;
  position: sticky;
  top: -18px;
  background: var(--paper);
}
td {
  border-bottom: 1px solid var(--thread-2);
  padding: 3px 8px 3px 0;
  overflow-wrap: break-word;
}
.x {
  width: 30px;
}
.off td {
  color: var(--ink-3);
}
.name {
  font-weight: 600;
  text-align: left;
}
.pages {
  display: flex;
  gap: 18px;
  margin-top: 10px;
}
/* Beside an account there is less room, and its number stands there. */
.book:has(> :deep(aside)) .number {
  display: none;
}
@media (max-width: 1000px) {
  td {
    overflow-wrap: anywhere;
  }
}
@media (max-width: 760px) {
  .more {
    display: none;
  }
  .find {
    width: 100%;
  }
  .book > :deep(aside) {
    position: fixed;
    inset: 0;
    width: auto;
    z-index: 7;
  }
  .main {
    padding: 12px 16px 24px;
  }
}
</style>
