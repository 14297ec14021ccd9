import { createI18n } from 'vue-i18n'
import { en } from './en'
import said from './said/en.json'

export const i18n = createI18n({ legacy: false, locale: 'en', fallbackLocale: 'en', messages: { en: { ...en, said } } })
