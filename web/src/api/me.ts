import { useQuery } from '@tanstack/vue-query'
import { learnStaff } from '../messages'
import { setCollegeTime } from '../parts/clock'
import { agree } from '../parts/reader'
import { ask, Problem } from './client'
import { keys } from './queries'

/** keepLanguage has the account keep the language in which its person reads. It is tried again with the next page. */
async function keepLanguage(account: string): Promise<void> {
  const language = agree(account)
  if (!language) return
  try {
    await ask((c) => c.PUT('/api/account/language', { body: { language } }))
  } catch (e) {
    console.warn('the language of the account could not be kept', e)
  }
}

/** useMe is who has signed in. Its error has status 401 when nobody has. */
export const useMe = () =>
  useQuery({
    queryKey: keys.me,
    queryFn: async () => {
      const me = await ask((c) => c.GET('/api/me'))
      setCollegeTime(me.now)
      if (!me.guest_of && !me.link_to) void keepLanguage(me.language)
      if (me.staff) await learnStaff()
      return me
    },
    staleTime: Infinity,
    retry: (n, error) => !(error instanceof Problem && error.status === 401) && n < 5,
  })
