<script setup lang="ts">
import { autoUpdate, computePosition, flip, offset, shift } from '@floating-ui/dom'
import { nextTick, onBeforeUnmount, ref, watch } from 'vue'
import { lastPressed, told } from '@/tell'

/** Results and refusals, each beside what was pressed; in the corner where nothing was, or it is gone. */
const beside = ref<{ left: number; top: number }>()
const slip = ref<HTMLElement[]>()
let stop = () => {}

async function place() {
  stop()
  beside.value = undefined
  if (!told.value.some((x) => !x.corner)) return
  await nextTick()
  const at = lastPressed()
  const el = slip.value?.[0]
  if (!at || !el) return
  stop = autoUpdate(at, el, async () => {
    if (at !== lastPressed()) return void place() // what was pressed is gone
    const box = at.getBoundingClientRect()
    if (box.bottom < 0 || box.top > innerHeight) return void (beside.value = undefined) // or out of sight
    const { x, y } = await computePosition(at, el, {
      strategy: 'fixed',
      placement: 'right',
      middleware: [
        offset(6),
        flip({ fallbackPlacements: ['bottom-start', 'top-start', 'left'] }),
        shift({ padding: 8 }),
      ],
    })
    beside.value = { left: x, top: y }
  })
}
watch(told, place)
onBeforeUnmount(() => stop())
</script>

<template>
  <div v-for="kind in ['done', 'problem'] as const" :key="kind" :role="kind === 'done' ? 'status' : 'alert'">
    <template v-for="one in told" :key="one.id">
      <p
        v-if="one.kind === kind"
        :ref="(el) => !one.corner && (slip = el ? [el as HTMLElement] : undefined)"
        class="told no-print"
        :class="[kind, { corner: one.corner || !beside }]"
        :style="one.corner || !beside ? {} : { left: `${beside.left}px`, top: `${beside.top}px` }"
        data-told
      >
        <span class="mark" aria-hidden="true">{{ kind === 'done' ? '✓' : '!' }}</span>
        {{ one.text }}
      </p>
    </template>
  </div>
</template>

<style scoped>
.told {
  position: fixed;
  z-index: 2000;
  width: max-content;
  max-width: min(420px, calc(100vw - 16px));
  margin: 0;
  padding: 7px 14px 7px 11px;
  border: 1px solid var(--thread);
  border-left: 4px solid var(--tide);
  border-radius: 6px;
  background: var(--sheet);
  color: var(--ink);
  font-size: 14px;
  box-shadow: 0 2px 10px rgb(0 0 0 / 14%);
  pointer-events: none; /* what it lies over can be pressed all the same */
}
.told.problem {
  border-left-color: var(--brick);
}
.mark {
  font-weight: 700;
  color: var(--tide);
  margin-right: 4px;
}
.problem .mark {
  color: var(--brick);
}
.corner {
  right: 24px;
  bottom: 64px; /* over the packing belt */
}
@media (max-width: 760px) {
  .corner {
    right: 8px;
  }
}
</style>
