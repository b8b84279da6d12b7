<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { useClasses } from '@/api/queries'
import { keys } from '@/api/keys'
import ChoiceBuilder from '@/parts/ChoiceBuilder.vue'
import { sentence } from '@/tell'

/** Adding to the list: by the school book while typing, by hand, or from other classes. */
const props = defineProps<{ classId: string; rows: Of<'RosterRow'>[] }>()
const emit = defineEmits<{ added: [batch: string, names: string, count: number] }>()
const { t } = useI18n()
const query = ref('')
const asked = computed(() => query.value.trim())
const { data: found } = useQuery({
  queryKey: computed(() => keys.people(asked.value)),
  enabled: computed(() => asked.value.length > 1),
  queryFn: () => data(api.GET('/people', { params: { query: { q: asked.value } } })),
  placeholderData: (before: Of<'BookEntry'>[] | undefined) => before,
})
const here = computed(() => new Set(props.rows.filter((r) => !r.left).map((r) => r.address.toLowerCase())))
const problem = ref('')
const busy = ref(false)
async function add(...students: Of<'NewStudent'>[]) {
  busy.value = true
  problem.value = ''
  try {
    const { batch } = await data(
      api.POST('/classes/{classId}/roster', { params: { path: { classId: props.classId } }, body: { students } }),
    )
    emit('added', batch, students.map((s) => `${s.given ?? ''} ${s.family ?? ''}`.trim()).join(', '), students.length)
    query.value = ''
    hand.value = { family: '', given: '', address: '', number: '' }
  } catch (e) {
    problem.value = sentence(e)
  } finally {
    busy.value = false
  }
}
const first = () => {
  const one = found.value?.find((p) => !here.value.has(p.address.toLowerCase()))
  if (one && asked.value.length > 1) void add(one)
}
const hand = ref({ family: '', given: '', address: '', number: '' })

// Students of the teacher's other classes, chosen by conditions or one by one.
const { data: classes } = useClasses()
const others = computed(() => (classes.value ?? []).filter((c) => c.id !== props.classId && c.students))
const from = ref<string[]>([])
const choice = ref<Of<'Choice'>>({ any: false, conditions: [], ticked: {} })
const chosen = ref<Of<'Chosen'>[]>([])
const adding = computed(() => {
  const seen = new Set(here.value)
  return chosen.value.filter((c) => {
    const a = c.address.toLowerCase()
    if (!c.in || !a || seen.has(a)) return false
    seen.add(a)
    return true
  })
})
const columns = ['period', 'level', 'team', 'c:code', 'family', 'given', 'number', 'address']
const addChosen = () =>
  add(
    ...adding.value.map(({ given, family, preferred, address, number }) => ({
      given,
      family,
      preferred,
      address,
      number,
    })),
  )
</script>

<template>
  <div class="add">
    <h2>{{ t('add.title') }}</h2>
    <Input
      v-model:value="query"
      v-focus
      allow-clear
      data-add="look"
      :placeholder="t('add.look')"
      :aria-label="t('add.look')"
      @press-enter="first"
    />
    <ul v-if="asked.length > 1" class="found">
      <li v-for="p in found" :key="p.address">
        <button class="plain" :disabled="here.has(p.address.toLowerCase()) || busy" @click="add(p)">
          <b
            ><bdi>{{ p.family }}{{ p.family && p.given ? ', ' : '' }}{{ p.given }}</bdi></b
          >
          <span class="quiet">{{ here.has(p.address.toLowerCase()) ? t('add.there') : p.address }}</span>
        </button>
      </li>
      <li v-if="found?.length === 0" class="quiet">{{ t('add.none') }}</li>
    </ul>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
    <details>
      <summary>{{ t('add.hand') }}</summary>
      <form @submit.prevent="add(hand)">
        <Input v-model:value="hand.family" :placeholder="t('role-of.family')" :aria-label="t('role-of.family')" />
        <Input v-model:value="hand.given" :placeholder="t('role-of.given')" :aria-label="t('role-of.given')" />
        <Input v-model:value="hand.address" :placeholder="t('role-of.address')" :aria-label="t('role-of.address')" />
        <Input v-model:value="hand.number" :placeholder="t('role-of.number')" :aria-label="t('role-of.number')" />
        <Button html-type="submit" :loading="busy" :disabled="!hand.family && !hand.given">{{ t('add.by') }}</Button>
      </form>
    </details>
    <details v-if="others.length">
      <summary>{{ t('add.others') }}</summary>
      <p class="quiet">{{ t('add.others-text') }}</p>
      <p class="pick">
        <label v-for="c in others" :key="c.id"
          ><input v-model="from" type="checkbox" :value="c.id" /> {{ c.code }}</label
        >
      </p>
      <template v-if="from.length">
        <ChoiceBuilder
          v-model="choice"
          :classes="from"
          :columns="columns"
          :values="() => []"
          @chosen="(c) => (chosen = c)"
        >
          <Button :disabled="!adding.length" :loading="busy" data-act="add-chosen" @click="addChosen">{{
            adding.length ? t('add.add-n', { n: adding.length }, adding.length) : t('add.nobody')
          }}</Button>
        </ChoiceBuilder>
      </template>
    </details>
  </div>
</template>

<style scoped>
.add {
  display: grid;
  gap: 10px;
  align-content: start;
}
.found {
  list-style: none;
  margin: 0;
  padding: 0;
  border: 1px solid var(--thread);
  border-radius: 6px;
  overflow: hidden;
}
.found li {
  border-bottom: 1px solid var(--thread-2);
  padding: 0;
}
li.quiet {
  padding: 6px 10px;
}
.found button {
  display: grid;
  width: 100%;
  padding: 5px 10px;
}
.found button:hover:not(:disabled),
.found button:focus-visible {
  background: var(--leather-soft);
}
.found button:disabled {
  cursor: default;
  color: var(--ink-3);
}
.found span {
  font-size: 13px;
  overflow-wrap: anywhere;
}
summary {
  cursor: pointer;
  color: var(--tide);
}
form {
  display: grid;
  gap: 6px;
  padding: 8px 0;
}
.pick {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  padding: 6px 0;
}
</style>
