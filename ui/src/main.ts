import { QueryCache, QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { createApp } from 'vue'
import App from './App.vue'
import { ProblemError } from './api/client'
import { startCover } from './cover'
import { askMe, me } from './me'
import { focus } from './parts/focus'
import { makeRouter } from './router'
import { ended, sentence } from './tell'
import { otherScripts } from './theme/fonts'
import { wearTheme } from './theme/theme'
import { passes, seeTrouble } from './trouble'
import './theme/base.css'
import { i18n } from './words/i18n'

wearTheme()

const queries: QueryClient = new QueryClient({
  queryCache: new QueryCache({
    onError: (e) => void (ended(e) || seeTrouble(e, () => void queries.invalidateQueries())),
  }),
  defaultOptions: {
    queries: {
      shallow: true, // answers are replaced, never changed in place
      staleTime: 2_000,
      retry: (n, e) => n < 2 && !(e instanceof ProblemError && e.status >= 400 && e.status < 500),
      refetchOnWindowFocus: false,
    },
  },
})

// Who is there is asked until there is an answer.
for (let asked = false; !asked;)
  try {
    await askMe()
    asked = true
  } catch (e) {
    const page = document.getElementById('app')!
    page.textContent = passes(e) ? i18n.global.t(`trouble.${e.code}`) : sentence(e)
    page.className = 'waiting'
    await new Promise<void>((back) => seeTrouble(e, back))
    page.textContent = ''
    page.className = ''
  }
if (me.value && me.value.role !== 'student') await startCover()
createApp(App)
  .use(i18n)
  .use(VueQueryPlugin, { queryClient: queries })
  .use(makeRouter())
  .directive('focus', focus)
  .mount('#app')
otherScripts().catch(() => {}) // the device's own letters do until then
