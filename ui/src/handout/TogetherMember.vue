<script setup lang="ts">
import { useQuery } from '@tanstack/vue-query'
import { computed, onBeforeUnmount } from 'vue'
import { api, data, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useHandout } from './handout'
import { useTogether } from './together'

/** Another class that the page's handout is for: it is looked after, and shown by others. */
const props = defineProps<{ partner: Of<'Partner'> }>()
const members = useTogether()
const { class: classId, id, code, name } = props.partner
const {
  data: cls,
  isFetching,
  failureCount,
} = useQuery({
  queryKey: keys.class(classId),
  queryFn: () => data(api.GET('/classes/{classId}', { params: { path: { classId } } })),
})
const hand = useHandout(
  computed(() => classId),
  computed(() => id),
)
const known = computed(() => (!isFetching.value || !!failureCount.value) && !hand.fetching.value)
members.set(classId, { class: classId, code, name, cls, hand, known })
onBeforeUnmount(() => members.delete(classId))
</script>

<template><span hidden /></template>
