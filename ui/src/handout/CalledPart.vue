<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useClass } from '@/class/theClass'
import { useFieldName } from '@/parts/fieldName'
import PatternField from '@/parts/PatternField.vue'
import PickOne from '@/parts/PickOne.vue'
import { plainName } from '@/parts/plainName'
import { isShared, type Hand } from './handout'

/** What copies are called and in which pocket of a satchel they lie. */
const props = defineProps<{ hand: Hand }>()
const { h, open, problems, change, name, copies } = props.hand
const { cls, mayPack } = useClass()
const { t } = useI18n()
const columnLabel = useFieldName()

const shared = computed(() => isShared(h.value))
const written = computed(() =>
  (h.value?.name ?? []).map((p) => (p.column ? `[${columnLabel(p.column)}]` : p.text)).join(''),
)
const pocket = computed(() => cls.value?.pockets.find((p) => p.id === h.value?.pocket)?.name)
const columns = computed(() => cls.value?.columns.map((c) => c.field) ?? [])
// Where links to all copies are, once there are any.
const folder = computed(() => h.value?.list.lines.find((l) => l.purpose === 'handout' && l.thing)?.thing)
// What was done to the names: told apart, shortened, made fit for a folder.
const marks = computed(() => [...new Set(copies.value.flatMap((l) => [l.apart, l.altered]).filter(Boolean))])
</script>

<template>
  <template v-if="h && cls">
    <p>
      <button
        class="plain u"
        :class="{ on: open === 'name' }"
        :disabled="!mayPack"
        data-part="name"
        @click="open = open === 'name' ? '' : 'name'"
      >
        {{ written }}
      </button>
      {{ t(shared ? 'say.point' : 'say.put') }}
      <PickOne
        v-if="cls.pockets.length && mayPack"
        class="u-select"
        :model-value="h.pocket"
        :label="t(shared ? 'say.point' : 'say.put')"
        :options="[
          { value: '', label: t('say.satchel') },
          ...cls.pockets.map((p) => ({ value: p.id, label: t('say.satchel-pocket', { pocket: p.name }) })),
        ]"
        @update:model-value="(v) => change({ pocket: v }, 'pocket')"
      />
      <template v-else>{{ pocket ? t('say.satchel-pocket', { pocket }) : t('say.satchel') }}</template>.
      <RouterLink v-if="folder" class="copies" :to="`/things/${folder}`" data-act="open-copies">{{
        t('say.copies')
      }}</RouterLink>
    </p>
    <p v-if="h.levels.length" class="quiet note" data-levels>
      {{ t('own.levels', { names: h.levels.map((x) => `${x.name} ${t(`level.${x.level}`)}`).join('; ') }) }}
      <button
        v-if="mayPack"
        class="link"
        data-act="level-alike"
        @click="change({ own: { rows: h.levels.map((x) => x.row), level: h.level } }, 'own')"
      >
        {{ t('own.alike') }}
      </button>
    </p>
    <p v-if="h.own.length" class="quiet note" data-own>
      {{ t('own.some', { n: h.own.length }, h.own.length) }}
      <button v-if="mayPack" class="link" @click="change({ own: { rows: h.own, alike: true } }, 'own')">
        {{ t('own.alike') }}
      </button>
    </p>
    <div v-if="open === 'name'" v-focus class="pop">
      <PatternField v-model="name" :columns="columns" />
      <p v-if="problems.name" class="bad" role="alert">{{ problems.name }}</p>
      <p class="quiet example">
        {{ t('pattern.example', { name: plainName(copies[0]?.name ?? '') })
        }}<template v-for="m in marks" :key="m"
          >{{ ' ' }}<strong>{{ t(`naming.${m}`) }}</strong></template
        >
      </p>
    </div>
  </template>
</template>

<style scoped>
.copies {
  font-size: 14px;
  margin-left: 6px;
}
</style>
