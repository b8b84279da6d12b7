<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { api, data, ProblemError } from '@/api/client'
import NothingHere from '@/entry/NothingHere.vue'
import { sentence } from '@/tell'

/** The front door: one address that leads everybody to their own. */
const route = useRoute()
const router = useRouter()
const { t } = useI18n()
const gone = ref(false)
const problem = ref('')
onMounted(async () => {
  const [classId, handout] = [String(route.params.classId), String(route.params.handoutId ?? '')]
  try {
    const door = await data(
      api.GET('/door/{classId}', { params: { path: { classId }, query: { handout: handout || undefined } } }),
    )
    if (door.thing) await router.replace(`/things/${door.thing}`)
    else if (handout) await router.replace({ name: 'handout', params: { classId, handoutId: handout } })
    else await router.replace({ name: 'register', params: { classId } })
  } catch (e) {
    gone.value = e instanceof ProblemError && e.status === 404
    if (!gone.value) problem.value = sentence(e)
  }
})
</script>

<template>
  <NothingHere v-if="gone" />
  <p v-else-if="problem" class="bad" role="alert">{{ problem }}</p>
  <p v-else class="quiet">{{ t('links.opening') }}</p>
</template>
