import { i18n } from './index'
import { locale } from '../parts/reader'
import { timecode } from '../parts/time'

/** Said is a sentence of the server: its code in the catalogue, what stands in it, and the same in English. */
export interface Said {
  code?: string | undefined
  with?: Record<string, unknown> | undefined
  text?: string | undefined
}

const day = (iso: string, more: Intl.DateTimeFormatOptions) =>
  new Intl.DateTimeFormat(locale, { day: 'numeric', month: 'long', timeZone: 'UTC', ...more }).format(
    new Date(`${iso.slice(0, 10)}T12:00:00Z`),
  )

/** written is what stands in a sentence, in the reader's own way. */
function written(value: unknown): string {
  if (typeof value !== 'object' || value === null) return String(value)
  const v = value as Record<string, unknown>
  if (typeof v.day === 'string') return day(v.day, { year: 'numeric' })
  if (typeof v.hour === 'string') return v.hour
  if (typeof v.moment === 'string') return `${day(v.moment, {})}, ${v.moment.slice(11, 16)}`
  if (typeof v.clock === 'number') return timecode(v.clock)
  if (Array.isArray(v.either)) return new Intl.ListFormat(locale, { type: 'disjunction' }).format(v.either.map(String))
  if (typeof v.code === 'string') return say(v as Said)
  return String(value)
}

const { t, te } = i18n.global

/** say puts a sentence of the server into words; one whose code has no words here is said as the server says it. */
export function say(s: Said): string {
  const key = `said.${s.code?.includes('.') ? s.code : `plain.${s.code}`}`
  if (!s.code || !te(key)) return s.text || t('said.plain.internal')
  const named = Object.fromEntries(Object.entries(s.with ?? {}).map(([name, v]) => [name, written(v)]))
  const n = s.with?.n
  return typeof n === 'number' ? t(key, named, n) : t(key, named)
}
