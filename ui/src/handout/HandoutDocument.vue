<script setup lang="ts">
import { Button, Checkbox } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { kindOf } from '@/things/kind'
import PatternField from '@/parts/PatternField.vue'
import { plainName } from '@/parts/plainName'
import FillingPart from './FillingPart.vue'
import type { Hand } from './handout'
import TemplatePicker from './TemplatePicker.vue'

/** One document of a handout: another in its place, a name of its own, or none of it. */
const props = defineProps<{ hand: Hand; document: Of<'GivenDocument'>; columns: string[] }>()
const { h, open, documents, setDocuments, laterDocuments, fileOf } = props.hand
const { t } = useI18n()
const choosing = ref(false)
const name = ref<Of<'Part'>[]>(props.document.name)
watch(
  () => props.document.slot,
  () => (name.value = props.document.name),
)
const others = computed(() => documents.value.filter((d) => d.slot !== props.document.slot))
const replaced = (to: Partial<Of<'GivenDocument'>>) =>
  documents.value.map((d) => (d.slot === props.document.slot ? { ...d, ...to } : d))
function own(on: boolean) {
  name.value = on ? [...h.value!.name] : []
  void setDocuments(replaced({ name: name.value }))
}
watch(name, (to) => to.length && laterDocuments(replaced({ name: to })))
</script>

<template>
  <div data-form="document">
    <p>
      <b
        ><bdi>{{ plainName(document.file) }}</bdi></b
      ><span class="quiet kind">{{ t(`kind.${kindOf(document.mediaType)}`) }}</span>
    </p>
    <TemplatePicker
      v-if="choosing"
      :choose="
        (id) => {
          choosing = false
          void setDocuments(replaced({ template: id, ...fileOf(id) }))
        }
      "
    />
    <template v-else>
      <Checkbox :checked="!!name.length" data-act="own-name" @update:checked="own">{{ t('say.own-name') }}</Checkbox>
      <PatternField v-if="name.length" v-model="name" :columns="columns" class="name" />
      <FillingPart
        v-if="h"
        :hand="hand"
        :document="document"
        @plain="(plain) => void setDocuments(replaced({ plain }))"
      />
      <p v-if="document.thing" class="look">
        <RouterLink :to="`/things/${document.thing}`" data-act="look-document">{{ t('say.look') }}</RouterLink>
      </p>
      <div v-if="!h?.packedAt" class="acts">
        <Button size="small" data-act="replace-document" @click="choosing = true">{{ t('say.replace') }}</Button>
        <Button
          size="small"
          data-act="drop-document"
          @click="
            () => {
              open = ''
              void setDocuments(others)
            }
          "
          >{{ t('say.drop') }}</Button
        >
      </div>
    </template>
  </div>
</template>

<style scoped>
.kind {
  margin-left: 8px;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-top: 10px;
}
.name,
.look {
  margin-top: 8px;
}
</style>
