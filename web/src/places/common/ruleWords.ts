import { toValue, type MaybeRefOrGetter } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Right, Rule, Use } from '../../api/rules'
import { dayOf, dayText } from '../../parts/days'
import { locale } from '../../parts/reader'

/** The first day of a right in the college; '' for none. */
export const fromDay = (r: Right, zone: string) => (r.from_at ? dayOf(Date.parse(r.from_at), zone) : '')

/** The last day of a right is the one before its end. */
export const untilDay = (r: Right, zone: string) => (r.until_at ? dayOf(Date.parse(r.until_at) - 1, zone) : '')

/** useRightWords are the parts of the sentence that a right is. */
export function useRightWords(zone: MaybeRefOrGetter<string>) {
  const { t } = useI18n()
  const list = new Intl.ListFormat(locale, { type: 'conjunction' })
  const named = (uses: Use[]) => list.format(uses.map((u) => t(`rule.use.${u}`)))

  function may(uses: Use[]): string {
    const done = named(uses.filter((u) => !u.startsWith('take_')))
    const kinds = uses.filter((u) => u.startsWith('take_'))
    if (kinds.length === 0) return done
    return kinds.length === 4 ? t('rule.take_all', { uses: done }) : t('rule.take', { uses: done, kinds: named(kinds) })
  }

  function from(r: Right): string {
    if (r.from === 'once') return t('rule.once')
    if (r.from === 'lecture') return t('rule.from_lecture')
    if (r.from === 'days') return t('rule.days_later', { n: r.days_after_lecture ?? 1 }, r.days_after_lecture ?? 1)
    const day = fromDay(r, toValue(zone))
    return day ? dayText(day) : t('rule.some_day')
  }

  function until(r: Right): string {
    if (r.until === 'term') return t('rule.until_term', { n: r.days_after_term }, r.days_after_term)
    if (r.until === 'ever') return t('rule.until_ever')
    const day = untilDay(r, toValue(zone))
    return day ? t('rule.until_day', { day: dayText(day) }) : t('rule.some_day')
  }

  /** For whom a rule of a course is. */
  function who(r: Rule, course: string): string {
    if (r.audience !== 'groups') return t('rule.everyone', { course })
    return r.groups.length > 0
      ? t('rule.groups_of', { groups: list.format(r.groups), course })
      : t('rule.no_group', { course })
  }

  /** A right as its whole sentence. */
  const said = (r: Right, whose: string) =>
    t(r.from === 'once' ? 'rule.sentence_once' : 'rule.sentence', {
      who: whose,
      may: may(r.uses),
      from: from(r),
      until: until(r),
    })
  /** A rule of a course as its whole sentence. */
  const sentence = (r: Rule, course: string) => said(r, who(r, course))

  /** What one may do, as it stands behind "may". */
  const use = (u: Use) =>
    u.startsWith('take_') ? t('rule.take_away', { kind: t(`rule.use.${u}`) }) : t(`rule.use.${u}`)
  /** Several of that, together. */
  const all = (uses: Use[]) => list.format(uses.map(use))
  return { who, may, from, until, use, all, said, sentence }
}
