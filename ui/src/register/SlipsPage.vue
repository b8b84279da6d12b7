<script setup lang="ts">
import { Button, Segmented } from 'ant-design-vue'
import { useQuery } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'
import { api, data } from '@/api/client'
import { keys } from '@/api/keys'
import { usePaper } from '@/parts/paper'
import { plainName } from '@/parts/plainName'
import SatchelPicture from '@/parts/SatchelPicture.vue'
import { me } from '@/me'

/** Small cards with each student's own link and a code to scan, to be printed and cut. */
const { t } = useI18n()
const route = useRoute()
const classId = computed(() => String(route.params.classId))
const handout = computed(() => (typeof route.query.handout === 'string' ? route.query.handout : ''))
const { data: list } = useQuery({
  queryKey: computed(() => keys.slips(classId.value, handout.value)),
  queryFn: () =>
    data(
      api.GET('/classes/{classId}/links', {
        params: { path: { classId: classId.value }, query: { handout: handout.value || undefined, codes: true } },
      }),
    ),
})
const slips = computed(() => (list.value?.links ?? []).filter((l) => l.code))
const { paper, print } = usePaper()
</script>

<template>
  <div class="slips" :class="paper" :data-paper="paper">
    <div class="bar">
      <h1>{{ t('links.slips') }}</h1>
      <RouterLink :to="{ name: 'links', params: { classId } }">{{ t('slips.back') }}</RouterLink>
      <Segmented v-model:value="paper" :options="['A4', 'Letter']" />
      <Button type="primary" :disabled="!slips.length" data-act="print" @click="print">{{
        t('slips.print', { n: slips.length }, slips.length)
      }}</Button>
      <span class="quiet">{{ t('slips.text') }}</span>
    </div>
    <div class="sheet">
      <article v-for="l in slips" :key="l.link" class="slip" :data-slip="l.student">
        <svg :viewBox="`0 0 ${l.size} ${l.size}`" role="img" :aria-label="t('slips.code', { name: l.student })">
          <rect :width="l.size" :height="l.size" fill="#fff" />
          <path :d="l.code" fill="#000" shape-rendering="crispEdges" />
        </svg>
        <div class="says">
          <SatchelPicture v-if="l.cue" :leather="0" :cue="l.cue" class="cue" />
          <b :class="{ long: l.student.length > 24 }"
            ><bdi>{{ l.student }}</bdi></b
          >
          <span>{{ l.place }}</span>
          <span v-if="handout" class="small"
            ><bdi>{{ plainName(l.name) }}</bdi></span
          >
          <span class="small link">{{ l.link }}</span>
          <span class="small">{{ me?.school }}</span>
        </div>
      </article>
    </div>
    <p v-if="list && !slips.length" class="quiet none">{{ t('links.none') }}</p>
  </div>
</template>

<style scoped>
.slips {
  min-height: 100%;
  overflow: auto;
  padding: 18px 24px;
}
.bar {
  display: flex;
  gap: 16px;
  align-items: center;
  margin-bottom: 16px;
  flex-wrap: wrap;
}
.sheet {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(min(92mm, 100%), 92mm));
  justify-content: start;
}
.slip {
  height: 46mm;
  border: 0.3mm dashed #857a6d;
  margin: -0.15mm;
  padding: 4mm;
  display: grid;
  grid-template-columns: 36mm minmax(0, 1fr);
  gap: 4mm;
  align-items: center;
  background: #fff;
  color: #2a2331;
  break-inside: avoid;
  overflow: hidden;
}
svg {
  width: 36mm;
  height: 36mm;
}
.says {
  display: grid;
  gap: 0.7mm;
  font-size: 3.2mm;
  line-height: 1.25;
}
.says b {
  font-size: 4.6mm;
  overflow-wrap: anywhere;
}
.says b.long {
  font-size: 3.5mm;
}
.cue {
  width: 11mm;
  height: 9.8mm;
}
.small {
  font-size: 2.6mm;
  color: #5c5363;
}
.small.link {
  overflow-wrap: anywhere;
  color: #5c5363;
}
@media print {
  .sheet {
    grid-template-columns: repeat(2, 92mm);
  }
  .bar,
  .none {
    display: none;
  }
  .slips {
    padding: 0.3mm;
    overflow: visible;
    background: #fff;
  }
}
</style>
