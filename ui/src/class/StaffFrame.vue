<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'
import { useClasses } from '@/api/queries'
import { useNews } from '@/events'
import { plainKey, showKeys, useKeys } from '@/keys'
import { me } from '@/me'
import AccountMenu from '@/parts/AccountMenu.vue'
import BrandMark from '@/parts/BrandMark.vue'
import ClassPegs from './ClassPegs.vue'
import FindStudent from './FindStudent.vue'
import KeyHelp from './KeyHelp.vue'
import { clockTime } from '@/when'
import PackingBelt from '@/packing/PackingBelt.vue'

/** The peg rail with the classes, the work beside it, the packing belt below. */
const { t } = useI18n()
const route = useRoute()
useNews()
const menu = ref(false) // of a narrow window
watch(
  () => route.fullPath,
  () => (menu.value = false),
)
useKeys((e) => {
  if (e.key === '?' && plainKey(e)) showKeys.value = true
  if (e.key === 'Escape') menu.value = false
})
const { data: classes } = useClasses(true)
const seenAt = computed(() => classes.value?.find((c) => c.seenAt)?.seenAt)
const attention = computed(() => (classes.value ?? []).reduce((n, c) => n + c.attention, 0))
</script>

<template>
  <div class="frame">
    <a class="skip" href="#work">{{ t('frame.skip') }}</a>
    <aside class="rail" :class="{ open: menu }" :aria-label="t('frame.rail')">
      <div class="bar">
        <RouterLink to="/" class="home"><BrandMark /></RouterLink>
        <button class="plain menu" :aria-expanded="menu" data-act="menu" @click="menu = !menu">
          {{ t('frame.menu') }}<b v-if="attention">{{ attention }}</b>
        </button>
      </div>
      <div class="inner">
        <RouterLink to="/" class="today" :class="{ on: route.name === 'start' }">
          <span>{{ t('today.title') }}</span>
          <b v-if="attention" :title="t('today.count', { n: attention }, attention)">{{ attention }}</b>
        </RouterLink>
        <FindStudent v-if="classes?.length && me?.role === 'staff'" />
        <ClassPegs :classes="classes" />
        <div class="further">
          <RouterLink v-if="me?.role === 'office' && me?.standins" :to="{ name: 'standins' }">{{
            t('standins.title')
          }}</RouterLink>
          <RouterLink v-if="me?.role === 'office' && me?.postroom" :to="{ name: 'postroom' }">{{
            t('postroom.title')
          }}</RouterLink>
          <RouterLink v-if="me?.role === 'office'" :to="{ name: 'settings' }">{{ t('school.title') }}</RouterLink>
          <RouterLink v-if="me?.role === 'office'" :to="{ name: 'school-doors' }">{{
            t('doors.school-title')
          }}</RouterLink>
          <RouterLink v-if="me?.role === 'office'" :to="{ name: 'school-log' }">{{ t('log.school') }}</RouterLink>
          <RouterLink :to="{ name: 'book' }">{{ t('book.title') }}</RouterLink>
          <RouterLink :to="{ name: 'bin' }">{{ t('bin.title') }}</RouterLink>
        </div>
        <AccountMenu class="me" />
      </div>
    </aside>
    <main id="work" tabindex="-1">
      <p v-if="seenAt" class="seen" role="status">
        {{ t('frame.seen', { time: clockTime(Date.parse(seenAt)) }) }}
      </p>
      <slot />
    </main>
    <PackingBelt class="belt" />
    <KeyHelp v-model:open="showKeys" />
  </div>
</template>

<style scoped>
.frame {
  height: 100%;
  display: grid;
  grid-template-columns: 208px minmax(0, 1fr);
  grid-template-rows: minmax(0, 1fr) auto;
}
.seen {
  margin: 0;
  padding: 7px var(--edge);
  background: var(--brass-soft);
  border-bottom: 1px solid var(--thread);
  font-size: 13.5px;
}
.skip {
  position: absolute;
  left: -999px;
}
.skip:focus {
  left: 8px;
  top: 8px;
  z-index: 5;
  background: var(--sheet);
  padding: 8px;
}
.rail {
  grid-row: 1 / 3;
  background: var(--rail);
  border-right: 1px solid var(--thread);
  padding: 16px 0 12px;
  display: flex;
  flex-direction: column;
  min-height: 0;
}
.home {
  display: block;
  padding: 0 16px 14px;
  color: inherit;
  text-decoration: none;
}
.today {
  padding: 5px 16px 12px;
  font-weight: 600;
  display: flex;
  justify-content: space-between;
  color: var(--ink);
}
.today.on {
  color: var(--leather-2);
}
b {
  background: var(--brass-text);
  color: var(--on-brass);
  border-radius: 9px;
  font-size: 12px;
  line-height: 18px;
  min-width: 18px;
  text-align: center;
  padding: 0 5px;
  font-weight: 700;
  align-self: center;
}
.inner {
  display: flex;
  flex-direction: column;
  flex: 1;
  min-height: 0;
}
.menu {
  display: none;
}
.further {
  padding: 10px 16px 8px;
  font-size: 14px;
  display: grid;
  justify-items: start;
}
.further a {
  color: var(--ink-2);
  min-height: 25px;
}
.further a:hover,
.further a.router-link-active {
  color: var(--ink);
}
.me {
  border-top: 1px solid var(--thread);
  margin: 0 16px;
  padding-top: 8px;
}
main {
  min-width: 0;
  min-height: 0;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  grid-auto-rows: minmax(0, 1fr);
  outline: none;
}
main:has(> .seen) {
  grid-template-rows: auto;
}
.belt {
  grid-column: 2;
}
@media (max-width: 760px) {
  .frame {
    grid-template-columns: minmax(0, 1fr);
    grid-template-rows: auto minmax(0, 1fr) auto;
  }
  .rail {
    grid-row: 1;
    padding: 0;
    border-right: 0;
    border-bottom: 1px solid var(--thread);
  }
  .bar {
    display: flex;
    align-items: center;
    justify-content: space-between;
    min-height: 46px;
    padding: 0 16px;
  }
  .home {
    padding: 0;
  }
  .menu {
    display: flex;
    align-items: center;
    gap: 8px;
    min-height: 40px;
    font-weight: 600;
  }
  .inner {
    display: none;
  }
  .rail.open .inner {
    display: flex;
    position: fixed;
    inset: 47px 0 0;
    z-index: 8;
    background: var(--rail);
    padding: 8px 0 12px;
    overflow-y: auto;
  }
  .belt {
    grid-column: 1;
  }
}
@media print {
  .frame,
  main {
    display: block;
    height: auto;
  }
  .rail,
  .belt,
  .skip {
    display: none;
  }
}
</style>
