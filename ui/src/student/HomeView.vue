<script setup lang="ts">
import { computed, inject } from 'vue'
import { useI18n } from 'vue-i18n'
import { useGreeting } from '@/greeting'
import type { Of } from '@/api/client'
import { plainName } from '@/parts/plainName'
import SatchelPicture from '@/parts/SatchelPicture.vue'
import { now } from '@/me'
import { ago, moment, past, wall } from '@/when'
import AddFiles from '@/things/AddFiles.vue'
import HomeCopy from './HomeCopy.vue'
import WithIt from './WithIt.vue'
import { thingAt } from './eyes'

/** A student's own things: what is due, the satchels, the places of the class. Looked at by others, nothing can be changed. */
const props = defineProps<{ home: Of<'Home'>; looking?: boolean }>()
const emit = defineEmits<{ added: [] }>()
const { t } = useI18n()
const at = inject(thingAt, (id: string) => `/things/${id}`)
type Copy = Of<'HomeCopy'> & { className: string; under: string; away: boolean }
const isShut = (c: Copy) => !!c.closing && Date.parse(c.closing.at) <= now()
const isOver = (c: Copy) => (!!c.due && past(c.due)) || isShut(c)
const all = computed<Copy[]>(() =>
  props.home.classes
    .flatMap((c) =>
      c.copies.map((k) => {
        const heading = c.headings.find((h) => h.id === k.heading)
        return { ...k, className: c.name, under: heading?.title ?? '', away: !!heading?.folded }
      }),
    )
    .sort((a, b) => Number(isOver(a)) - Number(isOver(b)) || (a.due || '9').localeCompare(b.due || '9')),
)
const copies = computed(() => all.value.filter((c) => !c.away))
// What is under a folded heading is put away under it.
const away = computed(() => {
  const out = new Map<string, Copy[]>()
  for (const c of all.value) {
    if (!c.away) continue
    const title = `${c.className} · ${c.under}`
    out.set(title, [...(out.get(title) ?? []), c])
  }
  return [...out]
})
const notices = computed(() =>
  props.home.classes
    .flatMap((c) => c.notices.map((n) => ({ ...n, className: c.name })))
    .sort((a, b) => b.postedAt.localeCompare(a.postedAt)),
)
const open = computed(() => copies.value.filter((c) => !isOver(c)))
const greeting = useGreeting()
const hello = computed(() => greeting(props.home.name))
const lead = computed(() => {
  const soon = open.value.filter((c) => c.due)
  if (!copies.value.length) return t('home.nothing')
  if (!soon.length) return t('home.no-due')
  return t('home.next-due', { title: soon[0].title, when: wall(soon[0].due) })
})
const line = (c: Copy) => {
  const bits = c.under ? [c.className, c.under] : [c.className]
  if (c.fresh) bits.unshift(t('home.new'))
  if (c.renewedAt) bits.push(t('home.renewed', { when: ago(Date.parse(c.renewedAt), t) }))
  if (c.document) bits.unshift(plainName(c.document))
  if (c.of !== 'student') bits.push(t(`home.with-${c.of}`))
  if (c.closing) {
    const at = Date.parse(c.closing.at)
    bits.push(t(isShut(c) ? 'closing.home-since' : 'closing.home-at', { when: moment(at) }))
  } else if (c.due)
    bits.push(past(c.due) ? t('home.was-due', { when: wall(c.due) }) : t('home.due', { when: wall(c.due) }))
  if (c.words) bits.push(t('home.wrote', { n: c.words }, c.words))
  return bits.join(' · ')
}
const shut = (c: Of<'Closing'>) => t('closing.home-since', { when: moment(Date.parse(c.at)) })
const satchels = computed(() => props.home.classes.filter((c) => c.satchel))
const waiting = computed(() => props.home.classes.filter((c) => !c.satchel))
</script>

<template>
  <div class="wrap">
    <section>
      <h1>{{ hello }}</h1>
      <p class="lead quiet">
        {{ lead }}
        <a v-if="!looking && open.some((c) => c.due)" href="/api/home/calendar" download data-act="calendar">{{
          t('home.calendar')
        }}</a>
      </p>
      <div v-for="n in notices" :key="n.id" class="notice" :data-notice="n.title">
        <p>
          <strong>{{ n.title }}</strong><span v-if="n.forParents" class="mark">{{ t('notice.parents') }}</span>
          <span class="quiet">{{ n.className }} · {{ ago(Date.parse(n.postedAt), t) }}</span>
        </p>
        <WithIt :html="n.html" :links="n.links" />
      </div>
      <div v-if="copies.length" class="todo">
        <HomeCopy v-for="c in copies" :key="c.thing" :copy="c" :line="line(c)" :go="c === open[0]" />
      </div>
      <details v-for="[title, under] in away" :key="title" class="away" :data-away="title">
        <summary>{{ title }} ({{ under.length }})</summary>
        <div class="todo"><HomeCopy v-for="c in under" :key="c.thing" :copy="c" :line="line(c)" /></div>
      </details>
      <h2>{{ t('home.satchels') }}</h2>
      <div v-for="(c, i) in satchels" :key="c.id" class="bag" :data-satchel="c.name">
        <SatchelPicture :leather="i" :cue="c.cue" />
        <div class="who">
          <RouterLink class="display" :to="at(c.satchel!)">{{ c.name }}</RouterLink><span class="quiet">{{
            c.staff.join(', ')
          }}</span>
        </div>
        <div class="words">
          <p>
            <template v-for="(f, k) in c.pockets" :key="f.id"
              ><template v-if="k"> · </template><RouterLink :to="at(f.id)">{{ f.name }}</RouterLink></template
            >
          </p>
          <p class="quiet">{{ c.added ? t('home.added', { n: c.added }, c.added) : '' }}</p>
          <p v-if="c.closing" class="shut">{{ shut(c.closing) }}</p>
        </div>
        <AddFiles v-if="!looking && !c.closing" :folder="c.satchel!" :of="c.name" @added="emit('added')" />
      </div>
      <p v-for="c in waiting" :key="c.id" class="quiet">
        {{
          c.waits
            ? t(`home.${c.waits.code}`, { class: c.name, when: c.waits.args?.at ? wall(c.waits.args.at) : '' })
            : t('home.waiting', { class: c.name })
        }}
      </p>
      <p v-if="!home.classes.length" class="quiet">{{ t('home.no-class') }}</p>
    </section>
    <section class="side">
      <h2>{{ t('home.in-class') }}</h2>
      <template v-for="c in home.classes" :key="c.id">
        <RouterLink v-if="c.shelf" class="pl" :to="at(c.shelf)">
          <svg width="30" height="26" viewBox="0 0 30 26" aria-hidden="true">
            <path d="M2 24h26M4 24V4M26 24V4M4 14h22" stroke="var(--leather)" stroke-width="2.2" fill="none" />
            <path d="M8 14V7h3v7M12.5 14V5h3v9M18 14l1.5-7 3 .7L21 14" fill="#D9A441" />
          </svg>
          <span
            ><strong>{{ c.shelfName || t('purpose.shelf') }}</strong
            ><span class="quiet">{{ t('home.shelf', { class: c.name }) }}</span></span
          >
        </RouterLink>
        <RouterLink v-if="c.table" class="pl" :to="at(c.table)">
          <svg width="30" height="26" viewBox="0 0 30 26" aria-hidden="true">
            <path d="M2 9h26M6 9v15M24 9v15" stroke="var(--leather)" stroke-width="2.4" fill="none" />
            <rect x="9" y="3" width="11" height="5" rx="1" fill="#9EC19F" />
          </svg>
          <span
            ><strong>{{ c.tableName || t('purpose.table') }}</strong
            ><span class="quiet">{{
              c.tableClosing ? shut(c.tableClosing) : t('home.table', { class: c.name })
            }}</span></span
          >
        </RouterLink>
        <RouterLink v-for="p in c.places" :key="p.id" class="pl" :to="at(p.id)" :data-place="p.name">
          <svg width="30" height="26" viewBox="0 0 30 26" aria-hidden="true">
            <template v-if="p.handIn">
              <path d="M3 14h7l2 4h6l2-4h7v9H3z" stroke="var(--leather)" stroke-width="2.2" fill="none" />
              <path d="M15 2v9M11 7.5l4 4 4-4" stroke="#7FA6B4" stroke-width="2.4" fill="none" />
            </template>
            <template v-else-if="p.team">
              <path d="M6 3v21" stroke="var(--leather)" stroke-width="2.4" fill="none" />
              <path d="M7 4h18l-5 4.5 5 4.5H7z" fill="#7FA6B4" />
            </template>
            <path v-else d="M4 8h22v15H4zM9 8V4h12v4M4 14h22" stroke="var(--leather)" stroke-width="2.2" fill="none" />
          </svg>
          <span
            ><strong>{{ p.name }}</strong
            ><span class="quiet">{{
              p.closing
                ? shut(p.closing)
                : t(p.handIn ? 'home.hand-in' : p.team ? 'home.team' : `home.place-${p.level}`, { class: c.name })
            }}</span></span
          >
        </RouterLink>
      </template>
    </section>
  </div>
</template>

<style scoped>
.wrap {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 340px;
  gap: 36px;
  max-width: 1240px;
}
h1 {
  font-size: 31px;
  margin-bottom: 4px;
}
.lead {
  font-size: 17px;
  margin-bottom: 18px;
}
.notice {
  background: var(--leather-soft);
  border-radius: 8px;
  padding: 12px 18px;
  margin-bottom: 14px;
}
.notice p {
  margin: 0 0 4px;
}
.notice strong {
  font-size: 17px;
  margin-right: 8px;
}
.mark {
  margin-right: 8px;
  border: 1px solid var(--leather);
  border-radius: 6px;
  padding: 0 6px;
  font-size: 13px;
  font-weight: 600;
}
.away {
  margin-bottom: 14px;
}
.away summary {
  padding: 6px 0;
  font-weight: 600;
}
.todo {
  background: var(--sheet);
  border: 1px solid var(--thread);
  border-radius: 8px;
  margin-bottom: 22px;
}
h2 {
  margin: 0 0 10px;
  font-size: 20px;
}
.bag {
  display: grid;
  grid-template-columns: 74px minmax(0, 1fr) auto auto;
  gap: 0 16px;
  align-items: center;
  padding: 9px 0;
  border-bottom: 1px solid var(--thread-2);
}
.who .display {
  font-size: 18px;
  line-height: 1.25;
  display: flex;
  align-items: flex-end;
  color: var(--ink);
}
.words {
  text-align: right;
  font-weight: 600;
}
.words .quiet {
  font-weight: 400;
  font-size: 14px;
}
.pl {
  display: flex;
  gap: 14px;
  align-items: center;
  padding: 9px 0;
  border-bottom: 1px solid var(--thread-2);
  color: var(--ink);
  text-decoration: none;
}
.pl:hover strong {
  text-decoration: underline;
}
.pl svg {
  flex: none;
}
.pl strong {
  display: block;
  font-weight: 650;
}
.pl .quiet {
  font-size: 14px;
}
@media (max-width: 900px) {
  .wrap {
    grid-template-columns: minmax(0, 1fr);
    gap: 24px;
  }
  .bag {
    grid-template-columns: 66px minmax(0, 1fr);
    row-gap: 6px;
  }
  .words {
    grid-column: 2;
    text-align: left;
  }
  .bag > :last-child {
    grid-column: 2;
  }
}
</style>
