import { createI18n } from 'vue-i18n'
import en from './en'

/** Every word on a screen comes from here. */
export const i18n = createI18n({
  legacy: false,
  locale: 'en',
  fallbackLocale: 'en',
  messages: { en },
  warnHtmlMessage: false,
})
