<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { api, type Of } from '@/api/client'
import { keys } from '@/api/keys'
import { useActing } from '@/parts/acting'
import SatchelPicture from '@/parts/SatchelPicture.vue'
import { tellDone } from '@/tell'

/** A colour and a symbol by which a young student knows the own satchel. */
const props = defineProps<{ classId: string; row: string; cue?: Of<'Cue'> }>()
const { t } = useI18n()
const queries = useQueryClient()
const open = ref(false)
const colours = ['leather', 'tide', 'moss', 'plum', 'brass', 'slate', 'coral', 'sand'] as const
const symbols = ['anchor', 'shell', 'kite', 'lamp', 'buoy', 'oar', 'feather', 'star'] as const
const { busy, problem, act } = useActing()
const now = () => ({ colour: props.cue?.colour ?? '', symbol: props.cue?.symbol ?? '' }) as Of<'Cue'>
const again = () => queries.invalidateQueries({ queryKey: keys.panel(props.classId) })
async function set(to: Partial<Of<'Cue'>>) {
  const path = { classId: props.classId, rowId: props.row }
  await act(() =>
    api.PUT('/classes/{classId}/rows/{rowId}/cue', { params: { path }, body: { ...now(), ...to } as Of<'Cue'> }),
  )
  await again()
}
async function deal() {
  await act(async () => {
    await api.POST('/classes/{classId}/cues', { params: { path: { classId: props.classId } } })
    tellDone(t('cue.dealt'))
  })
  await again()
}
</script>

<template>
  <div class="cue">
    <SatchelPicture :leather="0" :cue="cue" />
    <button class="link" :aria-expanded="open" data-act="cue" @click="open = !open">
      {{ t(cue ? 'cue.change' : 'cue.give') }}
    </button>
    <div v-if="open" class="choices">
      <div class="row">
        <button
          v-for="c in colours"
          :key="c"
          class="plain"
          :class="{ on: cue?.colour === c }"
          :disabled="busy"
          :aria-label="t(`cue.${c}`)"
          :title="t(`cue.${c}`)"
          @click="set({ colour: cue?.colour === c ? '' : c })"
        >
          <SatchelPicture class="small" :leather="0" :cue="{ colour: c, symbol: '' }" />
        </button>
      </div>
      <div class="row">
        <button
          v-for="x in symbols"
          :key="x"
          class="plain"
          :class="{ on: cue?.symbol === x }"
          :disabled="busy"
          :aria-label="t(`cue.${x}`)"
          :title="t(`cue.${x}`)"
          @click="set({ symbol: cue?.symbol === x ? '' : x })"
        >
          <SatchelPicture class="small" :leather="0" :cue="{ colour: cue?.colour ?? '', symbol: x }" />
        </button>
      </div>
      <button class="link" :disabled="busy" @click="deal">{{ t('cue.deal') }}</button>
      <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
    </div>
  </div>
</template>

<style scoped>
.cue {
  display: flex;
  align-items: center;
  gap: 12px;
  flex-wrap: wrap;
  margin-top: 14px;
}
.choices {
  flex-basis: 100%;
  display: grid;
  gap: 6px;
  justify-items: start;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 2px;
}
.row button {
  padding: 2px;
  border-radius: 6px;
}
.row button.on {
  box-shadow: 0 0 0 2px var(--leather);
}
.small {
  width: 31px;
  height: 28px;
  display: block;
}
</style>
