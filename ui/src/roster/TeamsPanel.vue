<script setup lang="ts">
import { Button, Input, InputNumber } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import PickOne from '@/parts/PickOne.vue'
import { tellProblem } from '@/tell'

/** Teams for the whole class or for those chosen: dealt evenly, moved by hand, then kept. */
const props = defineProps<{
  classId: string
  rows: Of<'RosterRow'>[]
  chosen: Set<string>
  known: Of<'Team'>[]
}>()
const emit = defineEmits<{ edit: [Of<'RosterEdit'>[]]; rename: [team: Of<'Team'>, name: string] }>()
const { t } = useI18n()
const students = computed(() =>
  props.rows.filter((r) => !r.left && (props.chosen.size === 0 || props.chosen.has(r.row))),
)
const count = ref(Math.max(2, Math.round(students.value.length / 4)))
const seed = ref(1)
const apart = ref<[string, string][]>([])
const a = ref('')
const b = ref('')
const teamOf = ref<Record<string, string>>(
  Object.fromEntries(students.value.filter((r) => r.team).map((r) => [r.row, r.team])),
)
const together = ref<string[][]>([])
const name = (row: string) => props.rows.find((r) => r.row === row)?.name ?? ''
const options = computed(() => students.value.map((r) => ({ value: r.row, label: r.name })))
const teams = computed(() =>
  [...new Set(Object.values(teamOf.value))].sort((x, y) => x.localeCompare(y, undefined, { numeric: true })),
)
// The same wish dealt again takes the next number; another wish the one that is shown.
let dealt = ''
async function deal() {
  const wish = () => JSON.stringify([count.value, seed.value, apart.value])
  if (wish() === dealt) seed.value++
  dealt = wish()
  try {
    const out = await data(
      api.POST('/classes/{classId}/roster/teams', {
        params: { path: { classId: props.classId } },
        body: { teams: count.value, seed: seed.value, apart: apart.value, rows: students.value.map((r) => r.row) },
      }),
    )
    teamOf.value = Object.fromEntries(out.teams.map((x) => [x.row, x.team]))
    together.value = out.together
  } catch (e) {
    tellProblem(e)
  }
}
function addPair() {
  if (!a.value || !b.value || a.value === b.value) return
  apart.value = [...apart.value, [a.value, b.value]]
  a.value = b.value = ''
}
const changes = computed(() =>
  students.value
    .filter((r) => (teamOf.value[r.row] ?? '') !== r.team)
    .map((r) => ({ row: r.row, field: 'team', value: teamOf.value[r.row] ?? '', was: r.team })),
)
// A team that was kept has an id: another name is given to it and to all in it.
const kept = (name: string) => props.known.find((x) => x.name === name)
const naming = ref('')
const called = ref('')
function rename() {
  const team = kept(naming.value)
  const name = called.value.trim()
  if (team && name && name !== team.name) {
    teamOf.value = Object.fromEntries(Object.entries(teamOf.value).map(([row, x]) => [row, x === team.name ? name : x]))
    emit('rename', team, name)
  }
  naming.value = ''
}
const over = ref('')
function drop(e: DragEvent, team: string) {
  const row = e.dataTransfer?.getData('text/x-row')
  over.value = ''
  if (row) teamOf.value = { ...teamOf.value, [row]: team }
}
</script>

<template>
  <div class="teams">
    <h2>{{ t('teams.title') }}</h2>
    <p class="quiet">{{ t('teams.text') }}</p>
    <div class="line">
      <label
        >{{ t('teams.number') }}
        <InputNumber v-model:value="count" size="small" :min="1" :max="Math.max(1, students.length)" />
      </label>
      <label>{{ t('teams.seed') }} <InputNumber v-model:value="seed" size="small" :min="1" :max="99999" /></label>
    </div>
    <details>
      <summary>{{ t('teams.apart') }}</summary>
      <div class="pair">
        <PickOne v-model="a" :options="options" :label="t('teams.apart')" />
        {{ t('teams.apart-with') }}
        <PickOne v-model="b" :options="options" :label="t('teams.apart-with')" />
        <Button size="small" @click="addPair">{{ t('teams.apart-add') }}</Button>
      </div>
      <p v-for="(p, i) in apart" :key="i">
        {{ t('teams.apart-pair', { a: name(p[0]), b: name(p[1]) }) }}
        <button class="link" @click="apart = apart.filter((_, n) => n !== i)">×</button>
      </p>
    </details>
    <div class="line">
      <Button data-act="deal" @click="deal">{{ teams.length ? t('teams.deal-again') : t('teams.deal') }}</Button>
      <Button type="primary" :disabled="!changes.length" data-act="keep-teams" @click="emit('edit', changes)">{{
        t('teams.keep')
      }}</Button>
    </div>
    <p v-if="together.length" class="bad" role="alert">
      {{
        t('teams.together', {
          pairs: together.map((p) => t('teams.apart-pair', { a: name(p[0]), b: name(p[1]) })).join('; '),
        })
      }}
    </p>
    <p v-if="teams.length" class="faint">{{ t('teams.drag') }}</p>
    <section
      v-for="x in teams"
      :key="x"
      class="team"
      :class="{ over: over === x }"
      :data-team="x"
      @dragover.prevent="over = x"
      @dragleave="over = ''"
      @drop.prevent="(e) => drop(e, x)"
    >
      <form v-if="naming === x" @submit.prevent="rename">
        <Input
          v-model:value="called"
          v-focus
          size="small"
          :maxlength="80"
          :aria-label="t('teams.rename', { team: x })"
          @blur="rename"
          @keydown.esc.stop="naming = ''"
        />
      </form>
      <h3 v-else>
        <button
          v-if="kept(x)"
          class="plain"
          :title="t('teams.rename', { team: x })"
          @click="
            () => {
              naming = called = x
            }
          "
        >
          {{ t('teams.team', { team: x }) }}
        </button>
        <template v-else>{{ t('teams.team', { team: x }) }}</template>
      </h3>
      <ul>
        <li
          v-for="r in students.filter((s) => teamOf[s.row] === x)"
          :key="r.row"
          draggable="true"
          @dragstart="(e) => e.dataTransfer?.setData('text/x-row', r.row)"
        >
          <bdi>{{ r.name }}</bdi> <span v-if="r.level" class="faint">{{ r.level }}</span>
          <select
            :value="x"
            :aria-label="t('teams.team-of', { name: r.name })"
            @change="teamOf = { ...teamOf, [r.row]: ($event.target as HTMLSelectElement).value }"
          >
            <option v-for="y in teams" :key="y" :value="y">{{ y }}</option>
          </select>
        </li>
      </ul>
    </section>
  </div>
</template>

<style scoped>
.teams {
  display: grid;
  gap: 10px;
  align-content: start;
}
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 16px;
  align-items: center;
}
.line :deep(.ant-input-number) {
  width: 72px;
}
.pair {
  display: grid;
  gap: 5px;
  padding: 6px 0;
}
summary {
  cursor: pointer;
  color: var(--tide);
}
.team {
  border: 1px solid var(--thread);
  border-radius: 6px;
  padding: 6px 10px;
}
.team.over {
  border-color: var(--leather);
  background: var(--leather-soft);
}
.team h3 {
  margin: 0 0 3px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: flex;
  flex-wrap: wrap;
  gap: 5px 6px;
}
/* A tag for everybody: pointed at its hole, to be taken and hung elsewhere. */
li {
  display: flex;
  gap: 5px;
  align-items: center;
  cursor: grab;
  font-size: 13.5px;
  line-height: 1.2;
  padding: 3px 4px 3px 8px;
  background: var(--moss-soft);
  border: 1px solid var(--moss);
  border-radius: 11px 4px 4px 11px;
}
li::before {
  content: '';
  width: 6px;
  height: 6px;
  flex: none;
  border: 1px solid var(--moss);
  border-radius: 50%;
  background: var(--sheet);
}
li select {
  min-height: 24px;
  font: inherit;
  font-size: 12.5px;
  border: 0;
  background: none;
  color: var(--tide);
}
</style>
