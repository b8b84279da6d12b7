import { VueQueryPlugin, QueryClient } from '@tanstack/vue-query'
import { createApp } from 'vue'
import App from './App.vue'
import { ProblemError } from './api/client'
import { startCover } from './cover'
import { askMe, me } from './me'
import { makeRouter } from './router'
import { otherScripts } from './theme/fonts'
import { wearTheme } from './theme/theme'
import './theme/base.css'
import { i18n } from './words/i18n'

wearTheme()

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      shallow: true, // answers are replaced, never changed in place
      staleTime: 2_000,
      retry: (n, e) => n < 2 && !(e instanceof ProblemError && e.status >= 400 && e.status < 500),
      refetchOnWindowFocus: false,
    },
  },
})

await askMe()
if (me.value && me.value.role !== 'student') await startCover()
createApp(App).use(i18n).use(VueQueryPlugin, { queryClient: queries }).use(makeRouter()).mount('#app')
void otherScripts()
