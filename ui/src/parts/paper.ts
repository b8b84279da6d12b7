import { onBeforeUnmount, ref, watchEffect } from 'vue'

/** The paper slips are printed on: the printer is told, not asked. also is what else printing wants of the page. */
export function usePaper(also = '') {
  const paper = ref<'A4' | 'Letter'>(/^en-(US|CA)|^es-MX/.test(navigator.language) ? 'Letter' : 'A4')
  const sheet = document.createElement('style')
  document.head.append(sheet)
  watchEffect(() => {
    sheet.textContent = `@page { size: ${paper.value}; margin: 10mm } @media print { html, body { background: #fff } ${also} }`
  })
  onBeforeUnmount(() => sheet.remove())
  return { paper, print: () => window.print() }
}
