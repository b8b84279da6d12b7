<script setup lang="ts">
import { Button, Checkbox, Input, Textarea } from 'ant-design-vue'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Of } from '@/api/client'
import { late } from '@/late'
import { isNotice, type Hand } from './handout'
import type { Folds } from './usual'
import { useClass } from '@/class/theClass'

/** What is said with a handout, or all that a notice says: formatted words, and links. */
const props = defineProps<{ hand: Hand; folds: Folds }>()
const RichText = late(() => import('@/things/RichText.vue'))
const { h, open, problems, change, later } = props.hand
const { mayPack } = useClass()
const { t } = useI18n()
const notice = computed(() => isNotice(h.value))
const links = ref<Of<'HandoutLink'>[]>([])
watch(h, (x) => x && open.value !== 'links' && (links.value = x.links.map((l) => ({ ...l }))), { immediate: true })
// What the editor can't give back as it is, is changed as it was typed.
const plain = ref(false)
const typed = ref('')
function plainly() {
  typed.value = h.value?.instructions ?? ''
  plain.value = true
}
watch(open, () => (plain.value = false))
function editLinks() {
  if (!links.value.length) links.value = [{ words: '', address: '' }]
  open.value = 'links'
}
// A link that is still being typed waits.
const keep = () => later({ links: links.value.filter((l) => l.address.trim()) }, 'links')
function drop(i: number) {
  links.value.splice(i, 1)
  keep()
}
const written = computed(() => h.value?.links.map((l) => l.words).join(', '))
</script>

<template>
  <div v-if="h">
    <p v-if="!folds('instructions')">
      {{ t(notice ? 'say.notice-says' : 'say.instructions') }}
      <button
        class="plain u soft"
        :class="{ on: open === 'instructions' }"
        :disabled="!mayPack"
        data-part="instructions"
        @click="open = open === 'instructions' ? '' : 'instructions'"
      >
        {{
          h.instructions
            ? t('say.instructions-words', { n: h.instructions.split(/\s+/).length })
            : t(notice ? 'say.write-it' : 'say.no-instructions')
        }}</button>.
    </p>
    <p v-if="!folds('links')">
      {{ t('say.links') }}
      <button
        class="plain u soft"
        :class="{ on: open === 'links' }"
        :disabled="!mayPack"
        data-part="links"
        @click="open === 'links' ? (open = '') : editLinks()"
      >
        {{ written || t('say.no-links') }}</button>.
    </p>
    <div v-if="open === 'instructions'" class="pop" data-form="instructions">
      <Textarea
        v-if="plain"
        v-model:value="typed"
        v-focus
        :auto-size="{ minRows: 4, maxRows: 12 }"
        :aria-label="t('say.instructions')"
        class="plainly"
        @update:value="(v: string) => later({ instructions: v }, 'instructions')"
      />
      <RichText
        v-else
        opened
        :text="h.instructions"
        :label="t('say.instructions')"
        @changed="(v) => later({ instructions: v }, 'instructions')"
        @plain="plainly"
      />
      <Button size="small" @click="open = ''">{{ t('act.done') }}</Button>
    </div>
    <!-- eslint-disable-next-line vue/no-v-html -->
    <article v-else-if="h.instructionsHtml" class="text words" v-html="h.instructionsHtml" />
    <p v-if="problems.instructions" class="bad" role="alert">{{ problems.instructions }}</p>
    <div v-if="open === 'links'" class="pop" data-form="links">
      <div v-for="(l, i) in links" :key="i" class="link">
        <Input
          v-model:value="l.address"
          v-focus
          :aria-label="t('say.link-address')"
          :placeholder="t('say.link-address')"
          :maxlength="2000"
          @update:value="keep"
        />
        <Input
          v-model:value="l.words"
          :aria-label="t('say.link-words')"
          :placeholder="t('say.link-words')"
          :maxlength="200"
          @update:value="keep"
        />
        <Button size="small" @click="drop(i)">{{ t('say.link-drop') }}</Button>
      </div>
      <p v-if="problems.links" class="bad" role="alert">{{ problems.links }}</p>
      <div class="acts">
        <Button size="small" :disabled="links.length >= 10" @click="links.push({ words: '', address: '' })">{{
          t('say.link-more')
        }}</Button>
        <Button size="small" @click="open = ''">{{ t('act.done') }}</Button>
      </div>
    </div>
    <Checkbox
      v-if="notice"
      :checked="h.forParents"
      :disabled="!mayPack"
      data-act="for-parents"
      @update:checked="(on: boolean) => void change({ forParents: on }, 'forParents')"
      >{{ t('say.for-parents') }}</Checkbox
    >
  </div>
</template>

<style scoped>
.plainly {
  margin-bottom: 10px;
}
.pop :deep(.sheet) {
  min-height: 130px;
  border: 1px solid var(--thread);
  border-radius: 6px;
  max-height: 320px;
  overflow-y: auto;
  padding: 10px 14px;
  margin-bottom: 10px;
}
.link {
  display: grid;
  grid-template-columns: minmax(0, 3fr) minmax(0, 2fr) auto;
  gap: 8px;
  margin-bottom: 8px;
}
.acts {
  display: flex;
  gap: 8px;
}
.words {
  border-left: 3px solid var(--thread);
  padding-left: 14px;
  margin-bottom: 12px;
  font-size: 15px;
  overflow-wrap: anywhere;
}
</style>
