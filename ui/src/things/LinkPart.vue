<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { me } from '@/me'
import { useActing } from '@/parts/acting'
import PickOne from '@/parts/PickOne.vue'
import { tellDone } from '@/tell'

/** Whom a file's link lets in: those who are named, or, on a deliberate act, the whole school. Who that is is said first. */
const props = defineProps<{ thing: Of<'Thing'> }>()
const emit = defineEmits<{ changed: [] }>()
const { t } = useI18n()
const open = ref<Of<'Openness'>>() // what was looked at
const level = ref<'read' | 'comment'>('read')
const { busy, problem, act } = useActing()
const params = computed(() => ({ path: { thingId: props.thing.id } }))
const wide = computed(() => (props.thing.school ?? 'nothing') !== 'nothing')
const all = computed(() => (open.value ? open.value.students + open.value.staff + open.value.office : 0))
const look = () =>
  act(async () => {
    open.value = await data(api.GET('/things/{thingId}/school', { params: params.value }))
  })
const say = (to: Of<'OpenToSchool'>['level']) =>
  act(async () => {
    await api.PUT('/things/{thingId}/school', {
      params: params.value,
      body: { level: to, was: props.thing.school ?? 'nothing' },
    })
    open.value = undefined
    tellDone(t(to === 'nothing' ? 'wide.shut' : 'wide.opened'))
    emit('changed')
  })
async function copy() {
  await navigator.clipboard.writeText(`${me.value?.site}/go/${props.thing.link}`)
  tellDone(t(wide.value ? 'wide.copied' : 'wide.copied-named'))
}
</script>

<template>
  <section class="wide" :class="{ open: wide }" data-form="wide">
    <p>
      <b v-if="wide">{{ t(`wide.now-${thing.school}`, { school: me?.school ?? '' }) }}</b>
      <template v-else>{{ t('wide.named') }}</template>
      <button class="link" data-act="copy-link" @click="copy">{{ t('wide.copy') }}</button>
      <button v-if="wide" class="link" data-act="shut" :disabled="busy" @click="say('nothing')">
        {{ t('wide.shut-it') }}
      </button>
      <button v-else-if="!open" class="link" data-act="look-wide" :disabled="busy" @click="look">
        {{ t('wide.open-it') }}
      </button>
    </p>
    <div v-if="open && !wide" class="who">
      <p>
        {{
          t('wide.would', {
            all,
            school: me?.school ?? '',
            students: open.students,
            staff: open.staff,
            office: open.office,
          })
        }}
        {{ t('wide.already', { n: open.named }, open.named) }}
      </p>
      <p class="quiet">{{ t('wide.what') }}</p>
      <p class="acts">
        {{ t('wide.they') }}
        <PickOne
          :model-value="level"
          :label="t('wide.they')"
          :options="(['read', 'comment'] as const).map((l) => ({ value: l, label: t(`level.${l}`) }))"
          @update:model-value="(v) => (level = v as 'read' | 'comment')"
        />
        <Button danger size="small" :loading="busy" data-act="open-to-school" @click="say(level)">{{
          t('wide.do', { n: Math.max(0, all - open.named) })
        }}</Button>
        <Button size="small" @click="open = undefined">{{ t('act.cancel') }}</Button>
      </p>
    </div>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
  </section>
</template>

<style scoped>
.wide {
  font-size: 14px;
  margin-bottom: 12px;
  color: var(--ink-2);
}
.wide > p {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  margin: 0;
}
.wide.open b {
  color: var(--brass-text);
}
.who {
  background: var(--sheet);
  border: 1px solid var(--thread);
  border-radius: 8px;
  padding: 12px 16px;
  margin-top: 8px;
  max-width: 640px;
}
.who p {
  margin: 0 0 8px;
}
.acts {
  display: flex;
  gap: 8px;
  align-items: center;
  flex-wrap: wrap;
}
</style>
