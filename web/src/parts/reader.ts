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

const mark = 'language-chosen'

/**
 * choose has all pages speak a language from now on, beginning with this one, which is loaded anew. Their account is
 * told of it by whoever knows it (agree), now or when they have signed in.
 */
export function choose(language: Language): void {
  try {
    sessionStorage.setItem(mark, language)
    localStorage.setItem(key, language)
  } finally {
    window.location.reload()
  }
}

/**
 * agree settles in which language someone reads and is written to whose account has this one ('' for none yet): it
 * gives the one that the account is to keep, or none. Where the account is of another mind than this browser, and
 * nothing was chosen here since it was opened, the page is loaded anew in the language of the account.
 */
export function agree(account: string): Language | undefined {
  try {
    if (sessionStorage.getItem(mark) === spoken) return account === spoken ? undefined : spoken
    if (!isSpoken(account)) return spoken
    if (account === spoken) return undefined
    localStorage.setItem(key, account)
    if (kept() === account) window.location.reload()
  } catch {
    // The browser keeps nothing: it speaks as it can.
  }
  return undefined
}
