<script setup lang="ts">
import { ref, useId } from 'vue'
import { useI18n } from 'vue-i18n'

/** Any number of values: typed or taken from those there are, each a chip. */
const props = defineProps<{ options: string[]; label: string }>()
const values = defineModel<string[]>({ required: true })
const { t } = useI18n()
const id = useId()
const text = ref('')
function add() {
  const more = text.value
    .split(/[,;]/)
    .map((v) => v.trim())
    .filter((v) => v && !values.value.includes(v))
  text.value = ''
  if (more.length) values.value = [...values.value, ...more]
}
// A value taken from the list is meant at once.
const taken = (e: Event) => {
  if (!(e instanceof InputEvent) || e.inputType === 'insertReplacementText' || !e.inputType)
    if (props.options.includes(text.value)) add()
}
</script>

<template>
  <span class="some">
    <span v-for="v in values" :key="v" class="chip"
      >{{ v }}
      <button
        type="button"
        class="link"
        :aria-label="t('choice.drop', { value: v })"
        @click="values = values.filter((x) => x !== v)"
      >
        ×
      </button></span
    >
    <input
      v-model="text"
      :list="id"
      :aria-label="label"
      :placeholder="values.length ? '' : label"
      @input="taken"
      @keydown.enter.prevent="add"
      @keydown.backspace="!text && (values = values.slice(0, -1))"
      @blur="add"
    />
    <datalist :id="id">
      <option v-for="o in options.filter((x) => !values.includes(x))" :key="o" :value="o" />
    </datalist>
  </span>
</template>

<style scoped>
.some {
  display: flex;
  flex-wrap: wrap;
  gap: 3px;
  align-items: center;
  border: 1px solid var(--line-field);
  border-radius: 5px;
  background: var(--sheet);
  padding: 1px 4px;
  min-height: 28px;
}
.some:focus-within {
  border-color: var(--leather);
}
.chip button {
  min-width: 24px;
  min-height: 24px;
  text-align: center;
}
input {
  flex: 1 1 60px;
  min-width: 60px;
  min-height: 24px;
  border: 0;
  outline: none;
  font: inherit;
  background: none;
  color: var(--ink);
}
</style>
