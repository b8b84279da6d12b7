<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useActing } from '@/parts/acting'
import { day } from '@/when'
import { useClass } from '@/class/theClass'

/** What was made for places and pockets that the plan no longer has: it stays, unless it is binned on purpose. */
const props = defineProps<{ digest: string }>()
const { classId, mayPack } = useClass()
const { t } = useI18n()
const queries = useQueryClient()
const path = computed(() => ({ path: { classId: classId.value } }))
const { data: kept } = useQuery({
  queryKey: computed(() => keys.leftovers(classId.value, props.digest)),
  queryFn: () => data(api.GET('/classes/{classId}/room/leftovers', { params: path.value })),
  placeholderData: (old) => old,
})
const asked = ref('')
const { busy, problem, act } = useActing()
async function bin(k: Of<'Kept'>) {
  const run = await act(() =>
    data(
      api.POST('/classes/{classId}/room/leftovers', {
        params: path.value,
        body: { id: k.id, things: k.things, inside: k.inside },
      }),
    ),
  )
  if (run) asked.value = ''
  await queries.invalidateQueries({ queryKey: keys.leftovers() })
}
</script>

<template>
  <div v-if="kept?.length">
    <h3>{{ t('kept.title') }}</h3>
    <ul>
      <li v-for="k in kept" :key="k.id" :data-kept="k.name">
        <b>{{ k.name }}</b>
        <span class="quiet">
          {{ t('kept.things', { n: k.things }, k.things) }}, {{ t('kept.inside', { n: k.inside }, k.inside)
          }}<template v-if="k.newest">, {{ t('kept.newest', { when: day(k.newest) }) }}</template>
        </span>
        <button v-if="mayPack && asked !== k.id" class="link" data-act="bin-kept" @click="asked = k.id">
          {{ t('kept.bin') }}
        </button>
        <div v-if="asked === k.id" class="ask">
          <span>{{ t('kept.sure', { n: k.things }, k.things) }}</span>
          <Button danger size="small" :loading="busy" data-act="bin-kept-sure" @click="bin(k)">{{
            t('kept.bin-n', { n: k.things }, k.things)
          }}</Button>
          <Button size="small" @click="asked = ''">{{ t('act.cancel') }}</Button>
        </div>
      </li>
    </ul>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
  </div>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  font-size: 14px;
}
li {
  padding: 2px 0;
  display: flex;
  gap: 8px;
  flex-wrap: wrap;
  align-items: baseline;
}
.ask {
  display: flex;
  gap: 8px;
  align-items: center;
  flex-basis: 100%;
}
</style>
