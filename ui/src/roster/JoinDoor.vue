<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api } from '@/api/client'
import { keys } from '@/api/keys'
import { useJoinDoor } from '@/api/queries'
import { useActing } from '@/parts/acting'
import PickOne from '@/parts/PickOne.vue'
import { tellDone } from '@/tell'
import { ago, exact } from '@/when'

/** Students ask to be let into the class, by a link that is open for a time; who asked is let in or not. */
const props = defineProps<{ classId: string; mayChange: boolean }>()
const { t } = useI18n()
const queries = useQueryClient()
const params = computed(() => ({ path: { classId: props.classId } }))
const queryKey = computed(() => keys.joinDoor(props.classId))
const { data: door } = useJoinDoor(() => props.classId)
const hours = ref('2')
const times = ['2', '24', '168']
const { busy, problem, act } = useActing()
const fresh = async () => {
  await queries.invalidateQueries({ queryKey: queryKey.value })
  await queries.invalidateQueries({ queryKey: keys.classes() })
}
const open = (n: number) =>
  act(async () => {
    await api.PUT('/classes/{classId}/join-door', { params: params.value, body: { hours: n } })
    await fresh()
  })
const take = (accounts: string[], into: boolean) =>
  act(async () => {
    await api.POST('/classes/{classId}/join-door/askers', { params: params.value, body: { accounts, in: into } })
    await fresh()
    await queries.invalidateQueries({ queryKey: keys.roster(props.classId) })
    tellDone(t(into ? 'join.taken' : 'join.refused', { n: accounts.length }, accounts.length))
  })
async function copy() {
  await navigator.clipboard.writeText(door.value!.link!)
  tellDone(t('join.copied'))
}
</script>

<template>
  <section v-if="door" class="door" data-form="join-door">
    <h2>{{ t('join.title') }}</h2>
    <p class="quiet">
      {{ t(door.link ? 'join.is-open' : 'join.text', { when: door.until ? exact(Date.parse(door.until)) : '' }) }}
    </p>
    <div v-if="door.link" class="open">
      <svg
        v-if="door.code"
        :viewBox="`0 0 ${door.size} ${door.size}`"
        width="132"
        height="132"
        role="img"
        :aria-label="t('join.code')"
      >
        <rect width="100%" height="100%" fill="#fff" />
        <path :d="door.code" fill="#2a2331" />
      </svg>
      <div>
        <code data-join>{{ door.link }}</code>
        <div class="row">
          <Button size="small" @click="copy">{{ t('links.copy') }}</Button>
          <Button v-if="mayChange" size="small" :disabled="busy" data-act="shut-join" @click="open(0)">{{
            t('join.shut')
          }}</Button>
        </div>
      </div>
    </div>
    <div v-else-if="mayChange" class="row">
      <Button size="small" :loading="busy" data-act="open-join" @click="open(Number(hours))">{{
        t('join.open')
      }}</Button>
      <PickOne
        v-model="hours"
        :label="t('join.for')"
        :options="times.map((v) => ({ value: v, label: t(`join.hours-${v}`) }))"
      />
    </div>
    <template v-if="door.asked.length">
      <ul>
        <li v-for="a in door.asked" :key="a.account" :data-asker="a.name">
          <b
            ><bdi>{{ a.name }}</bdi></b
          >
          <span class="quiet">{{ a.address }} · {{ ago(Date.parse(a.at), t) }}</span>
          <template v-if="mayChange">
            <Button size="small" :disabled="busy" data-act="take" @click="take([a.account], true)">{{
              t('join.take')
            }}</Button>
            <button class="link" :disabled="busy" data-act="refuse" @click="take([a.account], false)">
              {{ t('join.refuse') }}
            </button>
          </template>
        </li>
      </ul>
      <Button
        v-if="mayChange && door.asked.length > 1"
        size="small"
        type="primary"
        :loading="busy"
        data-act="take-all"
        @click="
          take(
            door.asked.map((a) => a.account),
            true,
          )
        "
        >{{ t('join.take-all', { n: door.asked.length }) }}</Button
      >
    </template>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
  </section>
</template>

<style scoped>
.open {
  display: flex;
  gap: 16px;
  align-items: center;
  margin: 8px 0;
  flex-wrap: wrap;
}
.row {
  display: flex;
  gap: 8px;
  align-items: center;
  margin-top: 6px;
}
code {
  overflow-wrap: anywhere;
}
ul {
  list-style: none;
  margin: 10px 0;
  padding: 0;
  max-width: 720px;
}
li {
  display: flex;
  gap: 10px;
  align-items: center;
  flex-wrap: wrap;
  border-top: 1px solid var(--thread-2);
  padding: 5px 0;
}
li .quiet {
  flex: 1;
}
</style>
