import { ref } from 'vue'
import { api, data, type Of } from './api/client'
import { passes } from './trouble'
import { i18n } from './words/i18n'

/** Who is signed in; null where nobody is. */
export const me = ref<Of<'Me'> | null>(null)

let ahead = 0 // how far the school's clock is ahead of this device's

export function setMe(m: Of<'Me'> | null) {
  me.value = m
  document.documentElement.dataset.role = m?.role ?? ''
  if (!m) return
  ahead = new Date(m.now).getTime() - Date.now()
  i18n.global.mergeLocaleMessage('en', { word: m.words })
}

/** The time by the school's clock. */
export const now = () => Date.now() + ahead

/** Asks who is signed in; throws what passes by itself. */
export async function askMe() {
  try {
    setMe(await data(api.GET('/me')))
  } catch (e) {
    if (passes(e)) throw e
    setMe(null)
  }
}

/** Signs out here, or everywhere: the session ends and nothing kept on the device stays. */
export async function signOut(everywhere = false) {
  await api.DELETE('/session', { params: { query: { everywhere } } })
  for (const k of Object.keys(localStorage)) if (k.startsWith('satchel.')) localStorage.removeItem(k)
  sessionStorage.clear()
  setMe(null)
  window.location.assign('/sign-in')
}
