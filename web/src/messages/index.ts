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

/** learn fetches the words of the reader's language before the first page; without them it is read in English. */
export async function learn(): Promise<void> {
  if (spoken === 'en') return
  try {
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
    document.documentElement.lang = spoken
  } catch (e) {
    console.warn('the words of the language could not be fetched', e)
    i18n.global.locale.value = 'en'
  }
}

let taught: Promise<void> | undefined

/** learnStaff fetches the words that only those meet who teach or coordinate; once they are here it does nothing. */
export const learnStaff = () =>
  (taught ??= fetchStaff().catch((e: unknown) => {
    taught = undefined // it is tried again
    throw e
  }))

async function fetchStaff(): Promise<void> {
  i18n.global.mergeLocaleMessage('en', (await import('./en/staff')).staff)
  if (i18n.global.locale.value === 'de') i18n.global.mergeLocaleMessage('de', (await import('./de/staff')).staff)
}
