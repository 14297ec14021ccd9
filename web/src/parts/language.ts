import { useI18n } from 'vue-i18n'

/** useLanguageNames gives the name of a language by its tag (BCP 47), in the reader's own language. */
export function useLanguageNames(): (tag: string) => string {
  const { locale } = useI18n()
  return (tag) => {
    try {
      return new Intl.DisplayNames(locale.value, { type: 'language' }).of(tag) ?? tag
    } catch {
      return tag // it is no tag that is known
    }
  }
}
