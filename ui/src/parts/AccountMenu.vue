<script setup lang="ts">
import { computed, onBeforeUnmount, onMounted, ref, useTemplateRef, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'
import { covered, setCovered } from '@/cover'
import { showKeys } from '@/keys'
import { me, signOut } from '@/me'

/** Who is signed in, and all that is theirs alone: one button that opens it. */
const { t } = useI18n()
const route = useRoute()
const open = ref(false)
const all = useTemplateRef<HTMLElement>('all')
const button = useTemplateRef<HTMLButtonElement>('button')
const initials = computed(() =>
  (me.value?.name ?? '')
    .split(/\s+/)
    .map((w) => [...w][0])
    .filter((_, i, of) => i === 0 || i === of.length - 1)
    .join(''),
)
const staff = computed(() => me.value?.role !== 'student')
watch(
  () => route.fullPath,
  () => (open.value = false),
)
const outside = (e: PointerEvent) => open.value && !all.value?.contains(e.target as Node) && (open.value = false)
onMounted(() => window.addEventListener('pointerdown', outside))
onBeforeUnmount(() => window.removeEventListener('pointerdown', outside))
function shut() {
  open.value = false
  button.value?.focus()
}
function doing(what: () => unknown) {
  shut()
  what()
}
</script>

<template>
  <div ref="all" class="account" @keydown.esc.stop="shut">
    <ul v-if="open" id="account-menu">
      <li>
        <RouterLink :to="{ name: 'account' }">{{ t('password.account') }}</RouterLink>
      </li>
      <li v-if="staff">
        <button class="link" data-act="cover" :title="t('cover.text')" @click="setCovered(!covered)">
          {{ t(covered ? 'cover.off' : 'cover.on') }}
        </button>
      </li>
      <li v-if="staff">
        <button class="link" data-act="keys" @click="doing(() => (showKeys = true))">{{ t('keys.all') }}</button>
      </li>
      <li>
        <button class="link" data-act="sign-out" @click="signOut()">{{ t('signin.out') }}</button>
      </li>
    </ul>
    <button
      ref="button"
      class="plain who"
      :aria-expanded="open"
      aria-controls="account-menu"
      data-act="account"
      @click="open = !open"
    >
      <span class="initials" aria-hidden="true">{{ initials }}</span>
      <span class="name"
        ><strong
          ><bdi>{{ me?.name }}</bdi></strong
        ><span>{{ me?.school }}</span></span
      >
      <span class="caret" aria-hidden="true">{{ open ? '⌄' : '⌃' }}</span>
    </button>
  </div>
</template>

<style scoped>
.account {
  position: relative;
}
.who {
  display: flex;
  align-items: center;
  gap: 9px;
  width: 100%;
  min-height: 40px;
  border-radius: 6px;
  font-size: 13.5px;
  line-height: 1.3;
}
.name {
  flex: 1;
  min-width: 0;
}
.name > * {
  display: block;
  overflow: hidden;
  text-overflow: ellipsis;
}
.name span {
  color: var(--ink-2);
}
strong {
  font-weight: 600;
}
.initials {
  flex: none;
  width: 28px;
  height: 28px;
  border-radius: 50%;
  background: var(--peg);
  border: 1px solid var(--thread);
  color: var(--leather-2);
  font-weight: 700;
  font-size: 12px;
  display: grid;
  place-content: center;
}
.caret {
  color: var(--ink-2);
}
ul {
  position: absolute;
  bottom: calc(100% + 6px);
  left: 0;
  z-index: 6;
  min-width: 190px;
  margin: 0;
  padding: 6px 0;
  list-style: none;
  background: var(--sheet);
  border: 1px solid var(--thread);
  border-radius: 8px;
  box-shadow: 0 6px 22px rgba(42, 35, 49, 0.12);
}
li > * {
  display: block;
  width: 100%;
  padding: 6px 14px;
  min-height: 32px;
}
li > :hover {
  background: var(--leather-soft);
}
</style>
