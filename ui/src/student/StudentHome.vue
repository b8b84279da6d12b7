<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { api, data } from '@/api/client'
import { keys } from '@/api/keys'
import HomeView from './HomeView.vue'
import StudentFrame from './StudentFrame.vue'

/** A student's own page. */
const { data: home, refetch } = useQuery({ queryKey: keys.home(), queryFn: () => data(api.GET('/home')) })
</script>

<template>
  <StudentFrame><HomeView v-if="home" :home="home" @added="refetch" /></StudentFrame>
</template>
