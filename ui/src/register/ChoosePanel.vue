<script setup lang="ts">
import { Button } from 'ant-design-vue'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import ChoiceBuilder from '@/parts/ChoiceBuilder.vue'
import { columnValues } from '@/parts/columnValues'
import { isOwn } from '@/parts/fieldName'
import { useClass } from '@/class/theClass'

/** Students are chosen by what the list says of them. */
const props = defineProps<{ rows: Of<'RosterRow'>[]; mayChange: boolean }>()
const emit = defineEmits<{ use: [rows: string[]] }>()
const { cls, classId } = useClass()
const { t } = useI18n()
const choice = ref<Of<'Choice'>>({ any: false, conditions: [], ticked: {} })
const caught = ref<Of<'Chosen'>[]>([])
const valuesOf = (column: string) => columnValues(props.rows, column)
const choiceColumns = computed(() => (cls.value?.columns ?? []).map((c) => c.field).filter((f) => !isOwn(f)))
</script>

<template>
  <div>
    <h2>{{ t('grid.choose') }}</h2>
    <ChoiceBuilder
      v-model="choice"
      :classes="[classId]"
      :columns="choiceColumns"
      :values="valuesOf"
      @chosen="(c) => (caught = c)"
    >
      <Button
        v-if="mayChange"
        class="use"
        data-act="use-choice"
        @click="
          emit(
            'use',
            caught.filter((c) => c.in).map((c) => c.row),
          )
        "
        >{{ t('choice.use', { n: caught.filter((c) => c.in).length }, caught.filter((c) => c.in).length) }}</Button
      >
    </ChoiceBuilder>
  </div>
</template>

<style scoped>
.use {
  margin-top: 10px;
}
</style>
