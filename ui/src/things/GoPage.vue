<script setup lang="ts">
import { ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, data } from '@/api/client'
import NothingHere from '@/entry/NothingHere.vue'

/** Follows a link to whatever it leads to for the person who is signed in. */
const route = useRoute()
const router = useRouter()
const gone = ref(false)
data(api.GET('/links/{link}', { params: { path: { link: String(route.params.link) } } }))
  .then((t) => router.replace(`/things/${t.id}`))
  .catch(() => (gone.value = true))
</script>

<template>
  <NothingHere v-if="gone" />
</template>
