/** How a class has caught up, in a sentence. */
import { useI18n } from 'vue-i18n'
import type { CaughtUp } from '../../api/caughtup'

export function useCaughtUpText() {
  const { t } = useI18n()
  return (x: CaughtUp): string => {
    const others = x.students - x.there
    if (x.students === 0) return ''
    if (others === 0) return t('caught_up.all_there', { n: x.students }, x.students)
    const of = x.there > 0 ? t('caught_up.there', { n: x.there, of: x.students }, x.there) : ''
    const mail = x.reminded > 0 ? t('caught_up.reminded', { n: x.reminded }, x.reminded) : ''
    if (!x.told) return [of, t('caught_up.few', { n: others }, others), mail].filter(Boolean).join(' ')
    const how = t(x.there > 0 ? 'caught_up.others' : 'caught_up.students', { n: x.caught_up, of: others }, x.caught_up)
    const begun = x.begun > 0 ? t('caught_up.begun', { n: x.begun }, x.begun) : ''
    return [of, how, begun, mail].filter(Boolean).join(' ')
  }
}
