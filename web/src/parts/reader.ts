/** In which language someone reads: as they chose on this computer, else the first of their browser that is spoken. */
export const languages = { en: 'English', de: 'Deutsch' } as const
export type Language = keyof typeof languages

const key = 'language'
const own = (tag: string) => tag.split('-')[0]!.toLowerCase()
const isSpoken = (tag: string | null | undefined): tag is Language => !!tag && tag in languages

function kept(): string | null {
  try {
    return localStorage.getItem(key)
  } catch {
    return null // the browser keeps nothing
  }
}

const chosen = kept()
export const spoken: Language = isSpoken(chosen) ? chosen : (navigator.languages.map(own).find(isSpoken) ?? 'en')

/** The reader's way of writing days, hours and numbers, in that language. */
export const locale = navigator.languages.find((tag) => own(tag) === spoken) ?? spoken

/** choose has all pages speak a language from now on, beginning with this one, which is loaded anew. */
export function choose(language: Language): void {
  try {
    localStorage.setItem(key, language)
  } finally {
    window.location.reload()
  }
}
