import { theme as antd } from 'ant-design-vue'
import { computed, ref } from 'vue'
import tokens from './tokens.json'

type Name = 'light' | 'dark'

const dark = window.matchMedia('(prefers-color-scheme: dark)')
const name = ref<Name>(dark.matches ? 'dark' : 'light')
dark.addEventListener('change', (e) => (name.value = e.matches ? 'dark' : 'light'))

/** Puts the tokens on the page as custom properties: the one source of colour. */
export function wearTheme() {
  const root = document.documentElement
  for (const [token, value] of Object.entries(tokens[name.value])) root.style.setProperty(`--${token}`, value)
  root.dataset.theme = name.value
}
dark.addEventListener('change', wearTheme)

export const fontFamily =
  "'Plain Figures', 'Atkinson Hyperlegible Next Variable', 'Noto Sans', 'Noto Sans Arabic', 'Noto Sans Hebrew', 'Noto Sans Devanagari', 'Noto Sans JP', sans-serif"

/** The same tokens for the component library. */
export const libraryTheme = computed(() => {
  const t = tokens[name.value]
  return {
    algorithm: name.value === 'dark' ? antd.darkAlgorithm : antd.defaultAlgorithm,
    token: {
      colorPrimary: t.leather,
      colorTextLightSolid: t['on-leather'],
      colorInfo: t.tide,
      colorSuccess: t.moss,
      colorWarning: t.brass,
      colorError: t.brick,
      colorText: t.ink,
      colorTextSecondary: t['ink-2'],
      colorTextPlaceholder: t['ink-3'],
      colorBgBase: t.paper,
      colorBgContainer: t.sheet,
      colorBgElevated: t.sheet,
      colorBorder: t.thread,
      colorLink: t.tide,
      controlOutline: t['leather-soft'],
      borderRadius: 6,
      fontFamily,
      fontSize: 15,
      boxShadow: '0 6px 22px rgba(42,35,49,.14)',
      boxShadowSecondary: '0 6px 22px rgba(42,35,49,.14)',
    },
  }
})
