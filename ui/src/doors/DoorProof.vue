<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { moment } from '@/when'

/** What a check says as a whole. */
const props = defineProps<{ check: Of<'DoorCheck'> }>()
const { t } = useI18n()
const count = computed(() => props.check.lines.length + props.check.more + props.check.wrong.length)
const checked = computed(() => {
  const c = props.check
  return t('doors.checked', {
    things: t('doors.things', { n: c.things }, c.things),
    students: t('doors.students', { n: c.students }, c.students),
    staff: t('doors.staff', { n: c.staff }, c.staff),
    doors: t('doors.as-they-should', { n: c.doors }, c.doors),
  })
})
</script>

<template>
  <section class="proof" data-part="proof">
    <b class="display" :class="count ? 'some' : 'none'" aria-hidden="true">{{ count }}</b>
    <div>
      <p>
        <strong>{{ count ? t('doors.count', { n: count }, count) : t('doors.no-differences') }}.</strong>
        {{ checked }}
      </p>
      <p v-if="check.tried">
        {{
          check.wrong.length
            ? t('doors.tried-wrong', { n: check.wrong.length, all: check.tried }, check.wrong.length)
            : t('doors.tried', { n: check.tried }, check.tried)
        }}
      </p>
      <p v-for="w in check.wrong" :key="w.who + w.thing" class="bad">
        {{ t(w.opens ? 'doors.opened-wrongly' : 'doors.shut-wrongly', { who: w.who, name: w.name }) }}
      </p>
      <p v-if="check.passing">{{ t('doors.passing', { n: check.passing }, check.passing) }}</p>
    </div>
    <span class="quiet when">{{ moment(Date.parse(check.at)) }}</span>
  </section>
</template>

<style scoped>
.proof {
  display: grid;
  grid-template-columns: auto 1fr auto;
  gap: 20px;
  align-items: center;
  background: var(--sheet);
  border: 1px solid var(--thread);
  border-radius: 8px;
  padding: 14px 20px;
  font-size: 14.5px;
  color: var(--ink-2);
}
.proof strong {
  color: var(--ink);
}
.proof b {
  font-size: 30px;
  line-height: 1;
}
.some {
  color: var(--brick);
}
.none {
  color: var(--moss);
}
.when {
  font-size: 13.5px;
}
@media (max-width: 700px) {
  .proof {
    grid-template-columns: auto 1fr;
    gap: 8px 14px;
    padding: 12px 14px;
  }
  .when {
    grid-column: 2;
  }
}
</style>
