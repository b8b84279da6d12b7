<script setup lang="ts">
import { Button, InputNumber, Textarea } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { answered } from '@/api/queries'
import { keys } from '@/api/keys'
import { useActing } from '@/parts/acting'
import { weight } from '@/things/weight'
import { tellDone } from '@/tell'

/** The shipped stand-ins: the weather the cupboard suffers, and what they hold. */
const { t } = useI18n()
const queries = useQueryClient()
const { data: standins } = useQuery({
  queryKey: keys.standins(),
  queryFn: () => data(api.GET('/standins')),
  refetchInterval: 3000,
})
const typed = ref<Of<'Weather'> | null>(null)
const unknown = ref('')
watch(
  standins,
  (s) => {
    if (!s || typed.value) return
    typed.value = { ...s.weather }
    unknown.value = s.weather.unknown.join('\n')
  },
  { immediate: true },
)
const { busy, problem, act } = useActing()
async function set(w: Of<'Weather'>) {
  const next = await act(() => answered(queries, keys.standins(), () => data(api.PUT('/standins', { body: w }))))
  if (!next) return
  typed.value = { ...next.weather }
  unknown.value = next.weather.unknown.join('\n')
  tellDone(t('standins.done'))
}
const kept = () =>
  set({
    ...typed.value!,
    unknown: unknown.value
      .split(/[\s,;]+/)
      .map((a) => a.trim())
      .filter(Boolean),
  })
const calm = () => set({ delay: 0, errors: 0, lost: 0, limit: 0, unknown: [] })
const rough = () => set({ delay: 300, errors: 0.2, lost: 0.05, limit: 10, unknown: [] })
const percent = (v: number) => `${Math.round(v * 100)} %`

const figures = computed(() => {
  const s = standins.value
  if (!s) return []
  return (
    [
      'folders',
      'files',
      'pointers',
      'versions',
      'contents',
      'bytes',
      'binned',
      'people',
      'accounts',
      'requests',
    ] as const
  ).map((k) => ({ key: k, value: k === 'bytes' ? weight(s[k]) : s[k].toLocaleString() }))
})
</script>

<template>
  <div class="page">
    <h1>{{ t('standins.title') }}</h1>
    <p class="quiet">{{ t('standins.text') }}</p>
    <div class="two">
      <form v-if="typed" class="weather" @submit.prevent="kept">
        <h2>{{ t('standins.weather') }}</h2>
        <label
          ><span>{{ t('standins.delay') }}</span
          ><InputNumber v-model:value="typed.delay" size="small" :min="0" :max="10000" :step="50" addon-after="ms"
        /></label>
        <label
          ><span>{{ t('standins.errors') }}</span
          ><InputNumber
            size="small"
            :value="Math.round(typed.errors * 100)"
            :min="0"
            :max="90"
            addon-after="%"
            @update:value="(v) => (typed!.errors = Number(v ?? 0) / 100)"
        /></label>
        <label
          ><span>{{ t('standins.lost') }}</span
          ><InputNumber
            size="small"
            :value="Math.round(typed.lost * 100)"
            :min="0"
            :max="90"
            addon-after="%"
            @update:value="(v) => (typed!.lost = Number(v ?? 0) / 100)"
        /></label>
        <label
          ><span>{{ t('standins.limit') }}</span
          ><InputNumber
            v-model:value="typed.limit"
            size="small"
            :min="0"
            :max="10000"
            :addon-after="t('standins.per-second')"
        /></label>
        <label
          ><span>{{ t('standins.unknown') }}</span
          ><Textarea
            v-model:value="unknown"
            :auto-size="{ minRows: 1, maxRows: 5 }"
            :placeholder="t('standins.unknown-example')"
        /></label>
        <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
        <div class="acts">
          <Button type="primary" html-type="submit" :loading="busy" data-act="set-weather">{{
            t('standins.set')
          }}</Button>
          <Button :disabled="busy" data-act="calm" @click="calm">{{ t('standins.calm') }}</Button>
          <Button :disabled="busy" data-act="rough" @click="rough">{{ t('standins.rough') }}</Button>
        </div>
        <p v-if="standins" class="quiet" data-weather>
          {{
            t('standins.now', {
              delay: standins.weather.delay,
              errors: percent(standins.weather.errors),
              lost: percent(standins.weather.lost),
              limit: standins.weather.limit || t('standins.no-limit'),
            })
          }}
        </p>
      </form>
      <section>
        <h2>{{ t('standins.holds') }}</h2>
        <dl>
          <template v-for="f in figures" :key="f.key"
            ><dt>{{ t(`standins.of-${f.key}`) }}</dt>
            <dd>{{ f.value }}</dd></template
          >
        </dl>
      </section>
    </div>
  </div>
</template>

<style scoped>
.page {
  padding: 18px var(--edge) 24px;
  overflow-y: auto;
  min-height: 0;
}
.two {
  display: grid;
  grid-template-columns: minmax(320px, 460px) minmax(0, 360px);
  gap: 48px;
  margin-top: 18px;
}
.weather {
  display: grid;
  gap: 9px;
  align-content: start;
}
label {
  display: grid;
  grid-template-columns: 190px minmax(0, 1fr);
  gap: 10px;
  align-items: center;
}
.acts {
  display: flex;
  gap: 8px;
  margin-top: 6px;
}
dl {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 4px 16px;
  margin: 8px 0;
}
dt {
  color: var(--ink-2);
}
dd {
  margin: 0;
  text-align: right;
  font-weight: 600;
}
@media (max-width: 480px) {
  label {
    grid-template-columns: minmax(0, 1fr);
    gap: 2px;
  }
}
@media (max-width: 1000px) {
  .two {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
