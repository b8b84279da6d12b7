<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

/** The way from a class list to the first handout: which step is next, and the act that does it. */
const props = defineProps<{ next: 'class' | 'list' | 'room' | 'handout' }>()
const emit = defineEmits<{ go: [] }>()
const { t } = useI18n()
const steps = ['class', 'list', 'room', 'handout'] as const
const at = computed(() => steps.indexOf(props.next))
</script>

<template>
  <ol data-steps>
    <li v-for="(s, i) in steps" :key="s" :class="{ done: i < at, now: i === at }" :aria-current="i === at && 'step'">
      <span class="n" aria-hidden="true">{{ i < at ? '✓' : i + 1 }}</span>
      <div>
        <strong
          >{{ t(`steps.${s}`) }}<span v-if="i < at" class="visually-hidden">: {{ t('steps.done') }}</span></strong
        >
        <p class="quiet">{{ t(`steps.${s}-text`) }}</p>
        <Button v-if="i === at" type="primary" :data-act="`step-${s}`" @click="emit('go')">{{
          t(`steps.${s}-go`)
        }}</Button>
      </div>
    </li>
  </ol>
</template>

<style scoped>
ol {
  list-style: none;
  margin: 0;
  padding: 0;
  max-width: 620px;
}
li {
  display: grid;
  grid-template-columns: 30px minmax(0, 1fr);
  gap: 12px;
  padding: 12px 0;
  border-bottom: 1px solid var(--thread-2);
}
.n {
  width: 28px;
  height: 28px;
  border-radius: 50%;
  border: 1.5px solid var(--thread);
  color: var(--ink-2);
  font-weight: 600;
  text-align: center;
  line-height: 25px;
}
.now .n {
  border-color: var(--leather);
  color: var(--leather);
}
.done .n {
  border-color: var(--moss);
  background: var(--moss-soft);
  color: var(--moss);
}
.now strong {
  font-size: 17px;
}
p {
  margin: 2px 0 0;
}
.now p {
  margin-bottom: 10px;
}
</style>
