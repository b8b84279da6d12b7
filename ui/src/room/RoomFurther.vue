<script setup lang="ts">
import { Input } from 'ant-design-vue'
import { ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import RoomLevels from './RoomLevels.vue'

/** What few classes need of a plan: the folder's own name, the term, and levels above and within. */
const props = defineProps<{ room: Of<'Room'>; columns: string[]; problem: string }>()
const emit = defineEmits<{ put: [field: string, to: Of<'RoomParts'>] }>()
const { t } = useI18n()
const folder = ref('')
const term = ref('')
watch(
  () => props.room,
  (r) => {
    folder.value = r.name
    term.value = r.term
  },
  { immediate: true },
)
const setFolder = (v: string) => {
  folder.value = v
  emit('put', 'name', { name: v })
}
const setTerm = (v: string) => {
  term.value = v
  emit('put', 'term', { term: v })
}
</script>

<template>
  <div class="further">
    <label
      ><span>{{ t('room.folder-name') }}</span
      ><Input
        size="small"
        :value="folder"
        :placeholder="room.folder"
        :aria-label="t('room.folder-name')"
        :maxlength="120"
        @update:value="setFolder"
    /></label>
    <label
      ><span>{{ t('room.term') }}</span
      ><Input
        size="small"
        :value="term"
        :placeholder="t('room.term-example')"
        :aria-label="t('room.term')"
        :maxlength="60"
        @update:value="setTerm"
    /></label>
    <RoomLevels
      :levels="room.path"
      :columns="room.columns"
      :example="room.levels ?? []"
      :label="t('levels.above-class')"
      @change="(v) => emit('put', 'path', { path: v })"
    />
    <RoomLevels
      :levels="room.within"
      :columns="columns"
      :example="[]"
      :label="t('levels.above-satchels')"
      @change="(v) => emit('put', 'within', { within: v })"
    />
    <p v-if="problem" class="bad" role="alert">
      {{ problem }}
    </p>
  </div>
</template>

<style scoped>
.further {
  display: grid;
  gap: 8px;
  margin: 6px 0 10px;
}
.further label {
  display: grid;
  grid-template-columns: 130px minmax(0, 1fr);
  align-items: center;
  gap: 8px;
  font-size: 14px;
}
</style>
