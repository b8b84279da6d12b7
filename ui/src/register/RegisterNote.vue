<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { useClasses } from '@/api/queries'
import { useClass } from '@/class/theClass'
import { useActing } from '@/parts/acting'
import { aboutOpening, useReasons } from '@/reasons'
import { useOpening } from '@/room/opening'
import { past, wall } from '@/when'

/** What the Register says in a sentence: how far it is, who needs the teacher, and who hasn't begun. */
const props = defineProps<{ reg: Of<'Register'> }>()
const emit = defineEmits<{ look: [row: string]; write: [rows: string[], handout: string] }>()
const { cls, classId, mayPack, mayLook } = useClass()
const { t } = useI18n()
const { reasonText, noteText } = useReasons()
// Shared isn't reached: what the newest door check found stands beside it.
const { data: classes } = useClasses()
const doors = computed(() =>
  classes.value?.find((c) => c.id === cls.value?.id)?.notes.find((n) => n.code === 'doors-differ'),
)
const waiting = computed(() => props.reg.waiting.filter((w) => !aboutOpening(w.reason.code)))
const { busy, problem, act } = useActing()
const opening = useOpening(classId)
const latest = computed(() => {
  const cs = props.reg.columns.filter((c) => c.handout && c.due && !past(c.due))
  return cs[cs.length - 1]
})
const idle = computed(() => {
  const c = latest.value
  return c ? props.reg.students.filter((_, i) => ['shared', 'opened'].includes(c.states[i])).map((s) => s.row) : []
})
</script>

<template>
  <p class="note">
    <template v-if="!cls?.packed">
      <strong>{{ t('register.not-packed') }}</strong>
      {{ ' ' }}<RouterLink v-if="mayPack" :to="{ name: 'room' }">{{ t('today.go-room') }}</RouterLink>
    </template>
    <template v-else>
      <strong>{{ t('register.shared', { shared: reg.sentence.shared, all: reg.sentence.students }) }}</strong>
      {{ ' '
      }}<RouterLink v-if="doors" class="em" :to="{ name: 'doors' }" data-note="doors">{{ noteText(doors) }}</RouterLink>
      <template v-if="reg.stuck.length">
        {{ t('register.stuck', { n: reg.stuck.length }, reg.stuck.length) }}
        <a href="#" class="em" @click.prevent="mayLook && emit('look', reg.stuck[0].row)"
          >{{ reg.stuck[0].student }}: {{ reasonText(reg.stuck[0].reason) }}.</a
        >
      </template>
      <template v-if="cls.opening">
        <span class="wait" data-note="opens">{{
          cls.opening.at ? t('register.opens', { when: wall(cls.opening.at) }) : t('register.opens-by-hand')
        }}</span>{{ ' '
        }}<button v-if="mayPack" class="link" :disabled="busy" data-act="open-class" @click="act(() => opening.now())">
          {{ t('opening.now') }}
        </button>
        <span v-if="problem" class="bad" role="alert">{{ problem }}</span>
      </template>
      <template v-if="waiting.length">
        {{ t('register.waiting', { n: waiting.length }, waiting.length) }}
        <a href="#" class="wait" data-note="waiting" @click.prevent="mayLook && emit('look', waiting[0].row)"
          >{{ waiting[0].student }}: {{ reasonText(waiting[0].reason) }}.</a
        >
      </template>
      <template v-if="idle.length">
        {{ t('register.not-begun', { n: idle.length, title: latest.title, due: wall(latest.due) }, idle.length) }}
        <button v-if="mayPack" class="link" data-act="write-idle" @click="emit('write', idle, latest.handout!)">
          {{ t('register.write', idle.length) }}
        </button>
      </template>
    </template>
  </p>
</template>

<style scoped>
.note {
  font-size: 14.5px;
  color: var(--ink-2);
  flex: 1;
  min-width: 0;
}
strong {
  color: var(--ink);
  font-weight: 650;
}
.wait {
  color: var(--brass-text);
  font-weight: 650;
}
.em {
  color: var(--brick);
  font-weight: 650;
}
@media (max-width: 700px) {
  .note {
    flex-basis: 100%;
    overflow-wrap: anywhere;
  }
}
</style>
