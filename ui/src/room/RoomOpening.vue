<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useClass } from '@/class/theClass'
import { useActing } from '@/parts/acting'
import { usualSend, wall } from '@/when'
import { useOpening } from './opening'

/** When students come to have what is made in the class: as soon as it is packed, at a time, or when staff say so. */
const { cls, classId, mayPack } = useClass()
const { t } = useI18n()
const { busy, problem, act } = useActing()
const opening = useOpening(classId)
const changing = ref(false)
const at = ref('')
const said = computed(() => {
  const o = cls.value?.opening
  if (!o) return t('opening.at-once')
  return o.at ? t('opening.at', { when: wall(o.at) }) : t('opening.by-hand')
})
function begin() {
  at.value = cls.value?.opening?.at || usualSend()
  changing.value = true
}
const later = (when: string) =>
  act(async () => {
    await opening.later(when)
    changing.value = false
  })
</script>

<template>
  <template v-if="cls && (cls.opening || !cls.packed)">
    <h3>{{ t('opening.title') }}</h3>
    <p data-opening>
      {{ said }}
      <template v-if="cls.opening?.letIn">{{
        t('opening.let-in', { n: cls.opening.letIn }, cls.opening.letIn)
      }}</template>
      <template v-if="mayPack && !changing">
        <button class="link" data-act="open-later" @click="begin">
          {{ t(cls.opening ? 'opening.change' : 'opening.later') }}
        </button>
        <button
          v-if="cls.opening"
          class="link now"
          :disabled="busy"
          data-act="open-class"
          @click="act(() => opening.now())"
        >
          {{ t(cls.packed ? 'opening.now' : 'opening.at-once-after-all') }}
        </button>
      </template>
    </p>
    <form v-if="changing" class="when" @submit.prevent="later(at)">
      <input v-model="at" v-focus type="datetime-local" class="field" required :aria-label="t('opening.title')" />
      <Button size="small" type="primary" html-type="submit" :loading="busy" data-act="save-opening">{{
        t('opening.set')
      }}</Button>
      <Button size="small" :disabled="busy" data-act="by-hand" @click="later('')">{{
        t('opening.set-by-hand')
      }}</Button>
      <Button size="small" type="text" @click="changing = false">{{ t('act.cancel') }}</Button>
    </form>
    <p class="quiet">{{ t('opening.help') }}</p>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
  </template>
</template>

<style scoped>
.now {
  margin-left: 12px;
}
.when {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  margin: 4px 0 6px;
}
.field {
  font: inherit;
  font-size: 15px;
  border: 1px solid var(--line-field);
  border-radius: 6px;
  padding: 3px 8px;
  background: var(--sheet);
  color: var(--ink);
}
p.quiet {
  font-size: 14px;
}
</style>
