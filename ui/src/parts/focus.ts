import type { Directive } from 'vue'

/**
 * Puts the cursor into a field that was just opened, behind what is there. The attribute of
 * that purpose counts once a page.
 */
export const focus: Directive<HTMLElement> = {
  mounted(el) {
    const fields = 'input, textarea, select'
    const field = el.matches(fields) ? el : el.querySelector<HTMLElement>(fields)
    field?.focus()
    if (field instanceof HTMLTextAreaElement || (field instanceof HTMLInputElement && field.type === 'text'))
      field.setSelectionRange(field.value.length, field.value.length)
  },
}
