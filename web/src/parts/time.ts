import { locale } from './reader'

/** timecode reads milliseconds as 41:07 or 1:02:41; with tenths as 41:07.3. */
export function timecode(ms: number, tenths = false): string {
  const t = Math.max(0, tenths ? Math.floor(ms / 100) / 10 : Math.floor(ms / 1000))
  const h = Math.floor(t / 3600)
  const m = Math.floor(t / 60) % 60
  const s = Math.floor(t) % 60
  const two = (n: number) => String(n).padStart(2, '0')
  const text = h > 0 ? `${h}:${two(m)}:${two(s)}` : `${m}:${two(s)}`
  return tenths ? `${text}.${Math.round((t % 1) * 10)}` : text
}

const made = new Map<string, Intl.DateTimeFormat>()

/** format is a formatter of its kind for a zone. They are costly to make and many are asked for, so they are kept. */
function format(kind: 'date' | 'clock', zone: string): Intl.DateTimeFormat {
  const key = kind + zone
  let f = made.get(key)
  if (!f) {
    f = new Intl.DateTimeFormat(
      locale,
      kind === 'date'
        ? { weekday: 'short', day: 'numeric', month: 'short', timeZone: zone }
        : { hour: '2-digit', minute: '2-digit', hourCycle: 'h23', timeZone: zone },
    )
    made.set(key, f)
  }
  return f
}

/** Dates and times are in the reader's own format and the zone of the college. */
export const dateText = (iso: string, zone: string): string => format('date', zone).format(new Date(iso))

export const clockText = (iso: string, zone: string): string => format('clock', zone).format(new Date(iso))

export function dayAndClock(iso: string, zone: string): string {
  return `${dateText(iso, zone)}, ${clockText(iso, zone)}`
}

export function megabytes(bytes: number): string {
  return new Intl.NumberFormat(locale, { maximumFractionDigits: bytes < 10e6 ? 1 : 0 }).format(bytes / 1e6)
}

/** bytesText reads so many bytes in the unit that fits. */
export function bytesText(bytes: number): string {
  const n = Math.floor(Math.log10(Math.max(1, bytes)) / 3)
  const unit = (['byte', 'kilobyte', 'megabyte', 'gigabyte', 'terabyte'] as const)[Math.min(n, 4)]!
  const value = bytes / 1000 ** Math.min(n, 4)
  const maximumFractionDigits = n > 1 && value < 10 ? 1 : 0
  return new Intl.NumberFormat(locale, { style: 'unit', unit, maximumFractionDigits }).format(value)
}

/** hoursText reads from when to when, as 10:15–11:45. */
export function hoursText(from: string, to: string, zone: string): string {
  return `${clockText(from, zone)}–${clockText(to, zone)}`
}

/** durationText reads how long something takes, as 1 hr 12 min; below a minute in seconds. */
export function durationText(ms: number): string {
  const part = (n: number, unit: 'hour' | 'minute' | 'second') =>
    new Intl.NumberFormat(locale, { style: 'unit', unit, unitDisplay: 'short' }).format(n)
  if (ms < 59_500) return part(Math.ceil(ms / 1000), 'second')
  const minutes = Math.round(ms / 60_000)
  const [h, m] = [Math.floor(minutes / 60), minutes % 60]
  return [h > 0 ? part(h, 'hour') : '', m > 0 ? part(m, 'minute') : ''].filter(Boolean).join(' ')
}
