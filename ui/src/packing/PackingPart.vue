<script setup lang="ts">
import { toRef, watch } from 'vue'
import type { Of } from '@/api/client'
import PackingLines from './PackingLines.vue'
import { useMending } from './mending'
import { usePart, type PartState } from './part'

/** One class's packing list, with what is ticked in it. */
const props = defineProps<{
  classId: string
  list: Of<'PackingList'>
  main: 'copy' | 'satchel'
  one?: boolean
  packed: boolean
  mayPack: boolean
  usual?: string
  refresh: () => Promise<unknown>
}>()
const emit = defineEmits<{
  state: [PartState]
  out: [row: string, why: 'unticked' | 'sits-out']
  in: [row: string]
  level: [row: string, level: string]
}>()
const classId = toRef(props, 'classId')
const part = usePart(classId, toRef(props, 'list'), props.main, () => props.refresh())
const { said, ticked, skip, skipped, remedies, state, leaveAsIs, former } = part
watch(state, (s) => emit('state', s), { immediate: true })
const { problems, mend } = useMending(classId, () => props.refresh())
</script>

<template>
  <PackingLines
    :list="list"
    :main="main"
    :unit="one ? 'document' : undefined"
    :may-fix="mayPack"
    :ticked="ticked"
    :problems="problems"
    :packed="packed"
    :skipped="skipped"
    :usual="usual"
    :remedies="remedies"
    @skip="(key, on) => (skip = on ? [...skip, key] : skip.filter((k) => k !== key))"
    @remedy="(key, how) => (remedies = { ...remedies, [key]: how })"
    @leave-as-is="leaveAsIs"
    @former="former"
    @tick="(key, on) => (said = { ...said, [key]: on })"
    @fix="(row, address) => mend(row, address, packed)"
    @confirm="(row) => mend(row, null, packed)"
    @out="(row, why) => $emit('out', row, why)"
    @in="(row) => $emit('in', row)"
    @level="(row, to) => $emit('level', row, to)"
  />
</template>
