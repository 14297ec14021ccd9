/** Days in the zone of the college. A day is written as 2026-11-25. */

export const dayOf = (at: number, zone: string): string =>
  new Intl.DateTimeFormat('sv-SE', { timeZone: zone, year: 'numeric', month: '2-digit', day: '2-digit' }).format(at)

/** startOf is the moment at which a day begins in the zone. */
export function startOf(day: string, zone: string): Date {
  const wanted = Date.parse(`${day}T00:00:00Z`)
  let at = wanted
  // What a clock in the zone shows at a moment tells how far it is ahead; twice, for days on which that changes.
  for (let i = 0; i < 2; i++) {
    const shown = new Intl.DateTimeFormat('sv-SE', {
      timeZone: zone,
      dateStyle: 'short',
      timeStyle: 'medium',
    }).format(at)
    at += wanted - Date.parse(`${shown.replace(' ', 'T')}Z`)
  }
  return new Date(at)
}

export function dayAfter(day: string, days = 1): string {
  return new Date(Date.parse(`${day}T12:00:00Z`) + days * 86_400_000).toISOString().slice(0, 10)
}

export const dayText = (day: string): string =>
  new Intl.DateTimeFormat(undefined, { day: 'numeric', month: 'long', year: 'numeric', timeZone: 'UTC' }).format(
    new Date(`${day}T12:00:00Z`),
  )
