import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import type { Choices } from '../../api/timetable'
import { dayText } from '../../parts/days'
import { locale } from '../../parts/reader'

/** usePlanWords puts a plan into words. */
export function usePlanWords() {
  const { t } = useI18n()
  const dayName = (n: number, style: 'long' | 'short' = 'long') =>
    new Intl.DateTimeFormat(locale, { weekday: style, timeZone: 'UTC' }).format(new Date(Date.UTC(2024, 0, n)))
  const list = (words: string[]) => new Intl.ListFormat(locale, { type: 'conjunction' }).format(words)

  function sentence(p: Schemas['PlanText'], hall: string, last: string, byDates: boolean, lectures: number): string {
    const days = list(p.weekdays.map((d) => t('plan.each', { day: dayName(d) })))
    const values = {
      days,
      every: p.every > 1 ? t('plan.every_n', { n: p.every }) : '',
      starts: p.starts,
      ends: p.ends,
      hall: hall ? t('plan.in_hall', { hall }) : '',
      from: dayText(p.from),
      last: dayText(last),
      n: lectures,
    }
    return t(byDates ? 'plan.by_dates' : 'plan.sentence', values, lectures)
      .replace(/\s+/g, ' ')
      .replace(/ ,/g, ',')
  }

  /** rest says what goes with each lecture of a plan besides its time. */
  function rest(p: Choices): string {
    const parts = [t(`doorway.${p.doorway}_from`, { n: p.opens_min })]
    if (p.capture_auto) parts.push(t('plan.starts_itself', { lead: p.lead_min, tail: p.tail_min }))
    return parts.join(' ')
  }

  function away(moved: number, off: number): string {
    const parts: string[] = []
    if (moved > 0) parts.push(t('plan.moved', { n: moved }, moved))
    if (off > 0) parts.push(t('plan.off', { n: off }, off))
    return parts.join(' ')
  }
  return { dayName, sentence, rest, away }
}
