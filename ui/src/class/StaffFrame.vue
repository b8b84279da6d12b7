<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'
import { useClasses } from '@/api/queries'
import { covered, setCovered } from '@/cover'
import { useNews } from '@/events'
import { me, signOut } from '@/me'
import BrandMark from '@/parts/BrandMark.vue'
import ClassPegs from './ClassPegs.vue'
import { clockTime } from '@/when'
import PackingBelt from '@/packing/PackingBelt.vue'

/** The peg rail with the classes, the work beside it, the packing belt below. */
const { t } = useI18n()
const route = useRoute()
useNews()
const { data: classes } = useClasses(true)
const seenAt = computed(() => classes.value?.find((c) => c.seenAt)?.seenAt)
const attention = computed(() => (classes.value ?? []).reduce((n, c) => n + c.attention, 0))
</script>

<template>
  <div class="frame">
    <a class="skip" href="#work">{{ t('frame.skip') }}</a>
    <aside class="rail" :aria-label="t('frame.rail')">
      <RouterLink to="/" class="home"><BrandMark /></RouterLink>
      <RouterLink to="/" class="today" :class="{ on: route.name === 'start' }">
        <span>{{ t('today.title') }}</span>
        <b v-if="attention" :title="t('today.count', { n: attention }, attention)">{{ attention }}</b>
      </RouterLink>
      <ClassPegs :classes="classes" />
      <div class="me">
        <strong>{{ me?.name }}</strong>
        <span>{{ me?.school }}</span>
        <RouterLink v-if="me?.role === 'office' && me?.standins" :to="{ name: 'standins' }">{{
          t('standins.title')
        }}</RouterLink>
        <RouterLink v-if="me?.role === 'office' && me?.postroom" :to="{ name: 'postroom' }">{{
          t('postroom.title')
        }}</RouterLink>
        <RouterLink :to="{ name: 'book' }">{{ t('book.title') }}</RouterLink>
        <RouterLink v-if="me?.role === 'office'" :to="{ name: 'settings' }">{{ t('school.title') }}</RouterLink>
        <RouterLink :to="{ name: 'account' }">{{ t('password.account') }}</RouterLink>
        <RouterLink :to="{ name: 'bin' }">{{ t('bin.title') }}</RouterLink>
        <button class="link" data-act="cover" :title="t('cover.text')" @click="setCovered(!covered)">
          {{ t(covered ? 'cover.off' : 'cover.on') }}
        </button>
        <button class="link" @click="signOut()">{{ t('signin.out') }}</button>
        <button class="link" :title="t('signin.everywhere-text')" @click="signOut(true)">
          {{ t('signin.everywhere') }}
        </button>
      </div>
    </aside>
    <main id="work" tabindex="-1">
      <p v-if="seenAt" class="seen" role="status">
        {{ t('frame.seen', { time: clockTime(Date.parse(seenAt)) }) }}
      </p>
      <slot />
    </main>
    <PackingBelt class="belt" />
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
  padding: 7px 28px;
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
}
.me {
  border-top: 1px solid var(--thread);
  margin: 10px 16px 0;
  padding-top: 9px;
  font-size: 13.5px;
  color: var(--ink-2);
  display: grid;
  justify-items: start;
}
.me button,
.me a {
  min-height: 24px;
}
.me strong {
  color: var(--ink);
  font-weight: 600;
}
main {
  min-width: 0;
  min-height: 0;
  display: grid;
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
    padding: 8px 0;
    border-right: 0;
    border-bottom: 1px solid var(--thread);
  }
  .home,
  .me strong,
  .me span {
    display: none;
  }
  .me {
    display: flex;
    flex-wrap: wrap;
    gap: 2px 16px;
    margin-top: 4px;
    padding-top: 4px;
  }
  .today {
    padding: 2px 16px 6px;
  }
  .belt {
    grid-column: 1;
  }
}
</style>
