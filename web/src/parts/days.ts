/** Days in the zone of the college. A day is written as 2026-11-25. */
import { Temporal } from 'temporal-polyfill'
import { locale } from './reader'

export const dayOf = (at: number, zone: string): string =>
  Temporal.Instant.fromEpochMilliseconds(at).toZonedDateTimeISO(zone).toPlainDate().toString()

/** startOf is the moment at which a day begins in the zone. */
export const startOf = (day: string, zone: string): Date =>
  new Date(Temporal.PlainDate.from(day).toZonedDateTime(zone).epochMilliseconds)

/** momentOf is the moment of a clock that is typed, as 18:00, 18.00 or 18, on a day in the zone; undefined for none. */
export function momentOf(day: string, clock: string, zone: string): Date | undefined {
  const [, hour, minute = '0'] = /^\s*(\d{1,2})(?:[:.](\d{2}))?\s*$/.exec(clock) ?? []
  if (!day || hour === undefined || Number(hour) > 23 || Number(minute) > 59) return undefined
  const time = { hour: Number(hour), minute: Number(minute) }
  return new Date(Temporal.PlainDate.from(day).toZonedDateTime({ timeZone: zone, plainTime: time }).epochMilliseconds)
}

export const dayAfter = (day: string, days = 1): string => Temporal.PlainDate.from(day).add({ days }).toString()

export const dayText = (day: string): string =>
  Temporal.PlainDate.from(day).toLocaleString(locale, { day: 'numeric', month: 'long', year: 'numeric' })

/** dayFormat is how the reader writes a day, in the signs of Day.js: DD.MM.YYYY, MM/DD/YYYY. */
export function dayFormat(): string {
  const signs: Record<string, string> = { day: 'DD', month: 'MM', year: 'YYYY' }
  return new Intl.DateTimeFormat(locale, { day: '2-digit', month: '2-digit', year: 'numeric' })
    .formatToParts(new Date(0))
    .map((p) => signs[p.type] ?? p.value)
    .join('')
}
