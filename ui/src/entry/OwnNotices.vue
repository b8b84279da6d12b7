<script setup lang="ts">
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { useI18n } from 'vue-i18n'
import { api, data, type Of } from '@/api/client'
import { answered } from '@/api/queries'
import { keys } from '@/api/keys'
import { useActing } from '@/parts/acting'

/** How somebody wants to be told by post: each message, one a day, or none. */
const { t } = useI18n()
const queries = useQueryClient()
const { data: wish } = useQuery({ queryKey: keys.wish(), queryFn: () => data(api.GET('/me/notices')) })
const { problem, act } = useActing()
const set = (part: Partial<Of<'Wish'>>) =>
  act(async () => {
    const next = { ...wish.value!, ...part }
    await answered(queries, keys.wish(), () => api.PUT('/me/notices', { body: next }).then(() => next))
  })
const ways = ['', 'digest', 'off'] as const
</script>

<template>
  <fieldset v-if="wish" data-form="notices">
    <legend class="display">{{ t('wish.title') }}</legend>
    <label v-for="w in ways" :key="w"
      ><input type="radio" name="wish" :value="w" :checked="wish.wish === w" @change="set({ wish: w })" />
      <span
        >{{ t(`wish.${w || 'each'}`)
        }}<template v-if="w === 'digest' && wish.wish === 'digest'"
          >{{ t('wish.at') }}
          <input
            type="time"
            class="pick-one"
            :value="wish.at"
            :aria-label="t('wish.time')"
            @change="set({ at: ($event.target as HTMLInputElement).value || wish!.at })"
        /></template>
      </span>
    </label>
    <p class="quiet">{{ t('wish.text') }}</p>
    <p v-if="problem" class="bad" role="alert">{{ problem }}</p>
  </fieldset>
</template>

<style scoped>
fieldset {
  border: 0;
  padding: 0;
  margin: 26px 0 0;
  display: grid;
  gap: 6px;
}
legend {
  font-size: 19px;
  padding: 0 0 6px;
}
label {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 28px;
}
p {
  margin: 0;
}
</style>
