import type { Virtualizer } from '@tanstack/vue-virtual'
import { computed, nextTick, ref, watch, type Ref } from 'vue'
import type { Of } from '@/api/client'
import { valueOf } from '@/parts/columnValues'

type Row = Of<'RosterRow'>
type Grid = {
  /** The rows in the order they are shown in, and the columns. */
  sorted: Ref<Row[]>
  fields: Ref<string[]>
  mayChange: () => boolean
  scroll: Readonly<Ref<HTMLElement | null>>
  virtual: Ref<Virtualizer<HTMLElement, Element>>
  edit: (edits: Of<'RosterEdit'>[]) => void
  undo: () => void
  /** Choose the student of a row. */
  choose: (row: string) => void
}

/**
 * The cells of a grid: one is active, a block may be marked; they are typed into, filled down, copied
 * and pasted. What was written goes to `edit`, with what stood there when its editing began.
 */
export function useCells({ sorted, fields, mayChange, scroll, virtual, edit, undo, choose }: Grid) {
  // The active cell, and the corner of the marked block that stays put.
  const at = ref({ r: 0, c: 0 })
  const anchor = ref({ r: 0, c: 0 })
  const editing = ref(false)
  const value = ref('')
  let began = '' // what stood in the cell when it was opened: somebody else's change since is told
  const block = computed(() => ({
    r0: Math.min(at.value.r, anchor.value.r),
    r1: Math.max(at.value.r, anchor.value.r),
    c0: Math.min(at.value.c, anchor.value.c),
    c1: Math.max(at.value.c, anchor.value.c),
  }))
  const marked = (r: number, c: number) =>
    r >= block.value.r0 && r <= block.value.r1 && c >= block.value.c0 && c <= block.value.c1
  const several = computed(() => block.value.r0 !== block.value.r1 || block.value.c0 !== block.value.c1)
  watch(sorted, (s) => {
    if (at.value.r >= s.length) at.value = anchor.value = { r: Math.max(0, s.length - 1), c: at.value.c }
  })
  async function go(r: number, c: number, keep = false) {
    at.value = {
      r: Math.min(Math.max(r, 0), sorted.value.length - 1),
      c: Math.min(Math.max(c, 0), fields.value.length - 1),
    }
    if (!keep) anchor.value = at.value
    virtual.value.scrollToIndex(at.value.r)
    await nextTick()
    scroll.value?.querySelector<HTMLElement>(`[data-at="${at.value.r}:${at.value.c}"]`)?.focus({ preventScroll: true })
  }
  const mayEdit = (r: Row) => mayChange() && !r.left
  async function begin(text?: string) {
    const r = sorted.value[at.value.r]
    if (!r || !mayEdit(r)) return
    began = valueOf(r, fields.value[at.value.c])
    value.value = text ?? began
    editing.value = true
    await nextTick()
    const input = scroll.value?.querySelector<HTMLInputElement>('input.edit')
    input?.focus()
    if (text === undefined) input?.select()
  }
  function end(save: boolean) {
    if (!editing.value) return
    editing.value = false
    const r = sorted.value[at.value.r]
    const f = fields.value[at.value.c]
    if (save && value.value !== began) edit([{ row: r.row, field: f, value: value.value, was: began }])
  }
  /** Values for cells of the grid; rows that may not change are passed over. */
  function put(cells: { r: number; c: number; value: string }[]) {
    const edits = cells
      .filter((x) => sorted.value[x.r] && fields.value[x.c] && mayEdit(sorted.value[x.r]))
      .map((x) => ({
        row: sorted.value[x.r].row,
        field: fields.value[x.c],
        value: x.value,
        was: valueOf(sorted.value[x.r], fields.value[x.c]),
      }))
      .filter((e) => e.was !== e.value)
    if (edits.length) edit(edits)
  }
  function each(make: (r: number, c: number) => string) {
    const out = []
    for (let r = block.value.r0; r <= block.value.r1; r++)
      for (let c = block.value.c0; c <= block.value.c1; c++) out.push({ r, c, value: make(r, c) })
    return out
  }
  function fillDown() {
    const top = several.value && block.value.r1 > block.value.r0 ? block.value.r0 : block.value.r0 - 1
    if (top >= 0) put(each((_, c) => valueOf(sorted.value[top], fields.value[c])))
  }
  function copy(e: ClipboardEvent) {
    if (editing.value) return
    const lines = []
    for (let r = block.value.r0; r <= block.value.r1; r++)
      lines.push(
        fields.value
          .slice(block.value.c0, block.value.c1 + 1)
          .map((f) => valueOf(sorted.value[r], f))
          .join('\t'),
      )
    e.clipboardData?.setData('text/plain', lines.join('\n'))
    e.preventDefault()
  }
  function paste(e: ClipboardEvent) {
    if (editing.value || !mayChange()) return
    const text = e.clipboardData?.getData('text/plain').replace(/\r?\n$/, '') ?? ''
    e.preventDefault()
    const lines = text.split(/\r?\n/).map((l) => l.split('\t'))
    if (lines.length === 1 && lines[0].length === 1 && several.value) return put(each(() => lines[0][0].trim()))
    put(
      lines.flatMap((line, r) =>
        line.map((v, c) => ({ r: block.value.r0 + r, c: block.value.c0 + c, value: v.trim() })),
      ),
    )
  }
  const moves: Record<string, [number, number]> = {
    ArrowUp: [-1, 0],
    ArrowDown: [1, 0],
    ArrowLeft: [0, -1],
    ArrowRight: [0, 1],
    PageUp: [-18, 0],
    PageDown: [18, 0],
  }
  function keys(e: KeyboardEvent) {
    const { r, c } = at.value
    const command = e.ctrlKey || e.metaKey
    if (editing.value) {
      if (e.key === 'Enter' || e.key === 'Tab') {
        e.preventDefault()
        end(true)
        void (e.key === 'Enter' ? go(r + (e.shiftKey ? -1 : 1), c) : go(r, c + (e.shiftKey ? -1 : 1)))
      } else if (e.key === 'Escape') {
        e.stopPropagation()
        end(false)
        void go(r, c)
      }
      return
    }
    const move = moves[e.key]
    if (move) {
      e.preventDefault()
      void go(r + move[0], c + move[1], e.shiftKey)
    } else if (command && e.key === 'd') {
      e.preventDefault()
      fillDown()
    } else if (command && e.key === 'z') {
      e.preventDefault()
      undo()
    } else if (e.key === 'Home' || e.key === 'End') {
      e.preventDefault()
      void go(
        command ? (e.key === 'Home' ? 0 : sorted.value.length - 1) : r,
        e.key === 'Home' ? 0 : fields.value.length,
      )
    } else if (e.key === 'Enter' || e.key === 'F2') {
      e.preventDefault()
      void begin()
    } else if (e.key === 'Delete' || e.key === 'Backspace') {
      e.preventDefault()
      put(each(() => ''))
    } else if (e.key === ' ' && e.shiftKey) {
      e.preventDefault()
      choose(sorted.value[r].row)
    } else if (e.key.length === 1 && !command && !e.altKey) {
      e.preventDefault()
      e.stopPropagation()
      void begin(e.key)
    }
  }
  return { at, editing, value, marked, go, begin, end, copy, paste, keys }
}
