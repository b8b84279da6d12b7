<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { me } from '@/me'
import { useActing } from '@/parts/acting'
import PickOne from '@/parts/PickOne.vue'
import { useRested } from '@/parts/rested'
import { tellDone } from '@/tell'
import { useClass } from './theClass'

/** Who is on the class's staff, as what; whom to add is looked up while typing. What it gives or takes is packed at once. */
const emit = defineEmits<{ close: [] }>()
const { cls, classId, mayPack } = useClass()
const { t } = useI18n()
const queries = useQueryClient()
const owning = computed(() => cls.value?.my === 'owner' || me.value?.role === 'office')
const text = ref('')
const asked = useRested(text)
const { data: found } = useQuery({
  queryKey: computed(() => keys.book({ text: asked.value, role: 'staff' })),
  queryFn: () => data(api.GET('/book', { params: { query: { text: asked.value, role: 'staff' } } })),
  enabled: computed(() => asked.value.length > 1),
})
const offered = computed(() =>
  asked.value.length > 1
    ? (found.value?.accounts ?? [])
        .filter((a) => !a.off && !cls.value?.staff.some((s) => s.account === a.id))
        .slice(0, 8)
    : [],
)
const { busy, problem, act } = useActing()
async function done(words: string) {
  text.value = ''
  tellDone(words)
  await queries.invalidateQueries({ queryKey: keys.class(classId.value) })
  await queries.invalidateQueries({ queryKey: keys.classes() })
}
type Role = Of<'SetStaff'>['role']
const set = (account: string, name: string, role: Role, was: Role) =>
  act(async () => {
    await api.PUT('/classes/{classId}/staff/{accountId}', {
      params: { path: { classId: classId.value, accountId: account } },
      body: { role, was },
    })
    await done(t(`staff.done-${role}`, { name }))
  })
const own = (account: string, name: string) =>
  act(async () => {
    await api.PUT('/classes/{classId}/owner', {
      params: { path: { classId: classId.value } },
      body: { account, was: cls.value!.staff.find((s) => s.role === 'owner')!.account },
    })
    await done(t('staff.done-owner', { name }))
  })
const confirming = ref('') // whom to make the owner
</script>

<template>
  <section v-if="cls" class="staff" data-form="staff" @keydown.esc.stop="emit('close')">
    <ul>
      <li v-for="s in cls.staff" :key="s.account" :data-staff="s.name">
        <b
          ><bdi>{{ s.name }}</bdi></b
        >
        <span v-if="s.role === 'owner' || !mayPack" class="quiet">{{ t(`staff.${s.role}`) }}</span>
        <PickOne
          v-else
          :model-value="s.role"
          :label="t('staff.as', { name: s.name })"
          :options="(['teacher', 'assistant', 'none'] as const).map((r) => ({ value: r, label: t(`staff.${r}`) }))"
          @update:model-value="(r) => set(s.account, s.name, r as Role, s.role as Role)"
        />
        <template v-if="owning && s.role !== 'owner'">
          <button v-if="confirming !== s.account" class="link" data-act="make-owner" @click="confirming = s.account">
            {{ t('staff.make-owner') }}
          </button>
          <template v-else>
            <span class="quiet">{{ t('staff.owner-text', { name: s.name }) }}</span>
            <Button size="small" danger :loading="busy" data-act="own" @click="own(s.account, s.name)">{{
              t('staff.own')
            }}</Button>
          </template>
        </template>
      </li>
    </ul>
    <div v-if="mayPack || owning" class="add">
      <Input
        v-model:value="text"
        v-focus
        size="small"
        class="find"
        :placeholder="t('staff.find')"
        :aria-label="t('staff.find')"
        :maxlength="100"
      />
      <button class="link" @click="emit('close')">{{ t('act.done') }}</button>
    </div>
    <ul v-if="offered.length" class="offered">
      <li v-for="a in offered" :key="a.id" :data-offered="a.address">
        <bdi>{{ a.given }} {{ a.family }}</bdi> <span class="quiet">{{ a.address }}</span>
        <template v-if="mayPack">
          <Button
            size="small"
            :disabled="busy"
            data-act="add-teacher"
            @click="set(a.id, `${a.given} ${a.family}`, 'teacher', 'none')"
            >{{ t('staff.add-teacher') }}</Button
          >
          <Button
            size="small"
            :disabled="busy"
            data-act="add-assistant"
            @click="set(a.id, `${a.given} ${a.family}`, 'assistant', 'none')"
            >{{ t('staff.add-assistant') }}</Button
          >
        </template>
        <Button
          v-if="owning"
          size="small"
          :disabled="busy"
          data-act="add-owner"
          @click="own(a.id, `${a.given} ${a.family}`)"
          >{{ t('staff.make-owner') }}</Button
        >
      </li>
    </ul>
    <p v-else-if="asked.length > 1 && found" class="quiet">{{ t('staff.nobody') }}</p>
    <p class="quiet">{{ t('staff.text') }}</p>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
  </section>
</template>

<style scoped>
.staff {
  background: var(--sheet);
  border: 1px solid var(--thread);
  border-radius: 8px;
  box-shadow: 0 6px 22px rgba(42, 35, 49, 0.12);
  padding: 12px 16px;
  margin: 6px 0 8px;
  max-width: 720px;
  font-size: 14px;
}
ul {
  list-style: none;
  margin: 0 0 8px;
  padding: 0;
}
li,
.add {
  display: flex;
  gap: 12px;
  align-items: center;
  flex-wrap: wrap;
  padding: 3px 0;
}
.find {
  width: 280px;
}
p {
  margin: 4px 0 0;
}
</style>
