import { locale } from './reader'

/** A number as the reader writes it. */
export const numberText = (x: number): string =>
  new Intl.NumberFormat(locale, { maximumSignificantDigits: 12 }).format(x)

/** readNumber is a number as people write it, with a comma or a point before its parts; undefined for none. */
export function readNumber(text: string): number | undefined {
  const x = Number(
    text
      .trim()
      .replace(/[\s\u2009']/g, '')
      .replace(',', '.'),
  )
  return text.trim() !== '' && Number.isFinite(x) ? x : undefined
}
