<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'
import { late } from '@/late'
import { api, data } from '@/api/client'
import { keys } from '@/api/keys'
import { me } from '@/me'
import { useActing } from '@/parts/acting'
import NothingHere from './NothingHere.vue'

/** Where a student asks to be let into a class. */
const StudentFrame = late(() => import('@/student/StudentFrame.vue'))
const StaffFrame = late(() => import('@/class/StaffFrame.vue'))
const { t } = useI18n()
const route = useRoute()
const queries = useQueryClient()
const params = computed(() => ({ path: { link: String(route.params.link) } }))
const queryKey = computed(() => keys.join(params.value.path.link))
const student = computed(() => me.value?.role === 'student')
const { data: look, error } = useQuery({
  queryKey,
  queryFn: () => data(api.GET('/join/{link}', { params: params.value })),
  retry: false,
  refetchInterval: (q) => (q.state.data?.stands === 'asked' ? 5000 : false),
})
const { busy, problem, act } = useActing()
const ask = () =>
  act(async () => {
    await api.POST('/join/{link}', { params: params.value })
    await queries.invalidateQueries({ queryKey: queryKey.value })
  })
</script>

<template>
  <NothingHere v-if="error" />
  <component :is="student ? StudentFrame : StaffFrame" v-else>
    <div v-if="look" class="join" :class="{ staff: !student }" data-page="join">
      <h1>{{ look.class }}</h1>
      <p v-if="!student">{{ t('join.students-only') }}</p>
      <template v-else>
        <p>{{ t(`join.stands-${look.stands}`) }}</p>
        <Button v-if="look.stands === 'open'" type="primary" :loading="busy" data-act="ask" @click="ask">{{
          t('join.ask')
        }}</Button>
        <RouterLink v-if="look.stands === 'in'" to="/">{{ t('thing.my-things') }}</RouterLink>
        <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
      </template>
    </div>
  </component>
</template>

<style scoped>
.join {
  max-width: 560px;
  display: grid;
  gap: 12px;
  justify-items: start;
}
.join.staff {
  padding: 20px 28px;
}
p {
  margin: 0;
}
</style>
