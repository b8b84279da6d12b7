<script setup lang="ts">
import { Button, Input } from 'ant-design-vue'
import { useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import { keys } from '@/api/keys'
import { useI18n } from 'vue-i18n'
import { api } from '@/api/client'
import { useActing } from '@/parts/acting'
import { tellDone } from '@/tell'
import { useClass } from './theClass'

/** What a class is called, in short too, and its period. */
const emit = defineEmits<{ close: [] }>()
const { cls, classId } = useClass()
const { t } = useI18n()
const queries = useQueryClient()
const was = { name: cls.value!.name, code: cls.value!.code, period: cls.value!.period }
const typed = ref({ ...was })
const { busy, problem, act } = useActing()
const keep = () =>
  act(async () => {
    await api.PATCH('/classes/{classId}', {
      params: { path: { classId: classId.value } },
      body: { to: typed.value, was },
    })
    await Promise.all(
      [keys.class(classId.value), keys.classes(), keys.room(classId.value)].map((queryKey) =>
        queries.invalidateQueries({ queryKey }),
      ),
    )
    tellDone(t('class.renamed'))
    emit('close')
  })
</script>

<template>
  <form
    class="called"
    data-form="class-name"
    :aria-label="t('class.called')"
    @submit.prevent="keep"
    @keydown.esc.stop="emit('close')"
  >
    <label
      >{{ t('class.name')
      }}<Input v-model:value="typed.name" v-focus size="small" class="name" :maxlength="120" data-field="name"
    /></label>
    <label
      >{{ t('class.short')
      }}<Input v-model:value="typed.code" size="small" :maxlength="12" :title="t('class.short-help')" data-field="code"
    /></label>
    <label
      >{{ t('class.period') }}<Input v-model:value="typed.period" size="small" :maxlength="20" data-field="period"
    /></label>
    <Button
      size="small"
      type="primary"
      html-type="submit"
      :loading="busy"
      :disabled="!typed.name.trim()"
      data-act="keep-class"
      >{{ t('class.keep') }}</Button
    >
    <button type="button" class="link" @click="emit('close')">{{ t('act.cancel') }}</button>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
    <p class="quiet">{{ t('class.called-help') }}</p>
  </form>
</template>

<style scoped>
.called {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 14px;
  align-items: center;
  padding: 10px 0 4px;
  font-size: 14.5px;
}
label {
  display: flex;
  gap: 6px;
  align-items: center;
  white-space: nowrap;
  font-weight: 600;
}
label :deep(input) {
  width: 90px;
}
label :deep(.name) {
  width: 220px;
}
p {
  margin: 0;
  flex-basis: 100%;
  font-size: 14px;
}
</style>
