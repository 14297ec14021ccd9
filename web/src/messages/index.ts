import type { Language as OfLibrary } from 'element-plus/es/locale/index.mjs'
import { createI18n } from 'vue-i18n'
import { spoken } from '../parts/reader'
import { en } from './en'
import said from './said/en.json'

const english = { ...en, said }

export const i18n = createI18n({
  legacy: false,
  locale: spoken as string,
  fallbackLocale: 'en',
  messages: { en: english } as { [tag: string]: typeof english },
})

/** The words of the library in the reader's language; its own are English. */
export let ofLibrary: OfLibrary | undefined

/** learn fetches the words of the reader's language, which must be there before the first page. */
export async function learn(): Promise<void> {
  document.documentElement.lang = spoken
  if (spoken !== 'de') return
  const [{ de }, { default: said }, library, dayjs] = await Promise.all([
    import('./de'),
    import('./said/de.json'),
    import('element-plus/es/locale/lang/de'),
    import('dayjs'),
    import('dayjs/locale/de'),
  ])
  dayjs.default.locale('de')
  ofLibrary = library.default
  i18n.global.setLocaleMessage('de', { ...de, said })
}
