<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { plainName } from '@/parts/plainName'
import { aboutAddress, useReasons } from '@/reasons'
import { waits } from './line'

/** Why a line needs mending, and what mends it, at its place. */
const props = defineProps<{
  line: Of<'Line'>
  main: string
  mayFix: boolean
  packed?: boolean
  /** The remedy that is chosen already. */
  chosen?: string
  /** What was refused. */
  problem?: string
}>()
const emit = defineEmits<{
  fix: [address: string]
  remedy: [remedy: string]
  former: [along: boolean]
  leaveAsIs: []
  confirm: []
}>()
const { t } = useI18n()
const { reasonText } = useReasons()
const typed = ref<string>()
const address = computed(() => typed.value ?? props.line.reason?.args?.suggestion ?? '')
</script>

<template>
  <template v-if="line.reason">
    {{ waits(line) ? t('list.waits', { why: reasonText(line.reason) }) : reasonText(line.reason) }}
    <form v-if="mayFix && aboutAddress(line.reason.code)" class="fix" @submit.prevent="emit('fix', address)">
      <Input
        size="small"
        :value="address"
        :aria-label="t('list.address-of', { name: line.student })"
        @update:value="(v: string) => (typed = v)"
      />
      <Button size="small" html-type="submit" :disabled="!address.trim()" data-act="fix">{{
        t(packed ? 'belt.fix' : 'list.correct')
      }}</Button>
    </form>
    <span v-if="mayFix && line.purpose !== main && !waits(line)" class="quiet"> {{ plainName(line.name) }}</span>
    <span v-if="mayFix && chosen" class="chosen" data-chosen
      >→ {{ t(`remedy.${chosen}`) }}
      <button class="link" @click="emit('remedy', '')">{{ t('remedy.undo') }}</button></span
    >
    <template v-else-if="mayFix">
      <template v-for="r in line.remedies" :key="r">
        <button
          v-if="r === 'bring-back' || r === 'make-anew'"
          class="link remedy"
          :data-act="r"
          @click="emit('remedy', r)"
        >
          {{ t(`remedy.${r}`) }}
        </button>
        <button
          v-else-if="r === 'bring-along' || r === 'make-new'"
          class="link remedy"
          :data-act="r"
          @click="emit('former', r === 'bring-along')"
        >
          {{ t(`remedy.${r}`) }}
        </button>
        <button
          v-else-if="r === 'leave-out' && line.thing && !aboutAddress(line.reason.code)"
          class="link remedy"
          data-act="leave-as-is"
          @click="emit('leaveAsIs')"
        >
          {{ t('remedy.leave-out') }}
        </button>
      </template>
    </template>
    <p v-if="problem" role="alert">{{ problem }}</p>
    <template v-if="mayFix && line.reason.code === 'account-other-name'">
      ·
      <button class="link" data-act="confirm" @click="emit('confirm')">
        {{ t('grid.same-student') }}
      </button>
    </template>
  </template>
</template>

<style scoped>
.remedy,
.chosen {
  margin-left: 10px;
  white-space: nowrap;
}
.chosen {
  color: var(--moss);
}
.fix {
  display: flex;
  gap: 6px;
  margin: 2px 0 5px;
}
.fix .ant-input {
  flex: 1;
  min-width: 0;
  max-width: 300px;
}
@media (max-width: 560px) {
  .fix {
    flex-direction: column;
    overflow-wrap: anywhere;
  }
}
</style>
