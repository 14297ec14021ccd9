import { useQuery } from '@tanstack/vue-query'
import { learnStaff } from '../messages'
import { setCollegeTime } from '../parts/clock'
import { agree } from '../parts/reader'
import { ask, Problem, type Schemas } from './client'
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

/** guestHome is to what a guest can come, and nothing else; of everyone else there is none. */
export function guestHome(me: Schemas['Me'] | undefined): { name: string; params: Record<string, string> } | undefined {
  if (me?.guest_of) return { name: 'lecture', params: { lecture: me.guest_of } }
  if (me?.link_to) return { name: 'watch', params: { recording: me.link_to } }
  return me?.link_list ? { name: 'linked', params: { opening: me.link_list } } : undefined
}

/** useMe is who has signed in. Its error has status 401 when nobody has. */
export const useMe = () =>
  useQuery({
    queryKey: keys.me,
    queryFn: async () => {
      const me = await ask((c) => c.GET('/api/me'))
      setCollegeTime(me.now)
      if (!guestHome(me)) void keepLanguage(me.language)
      if (me.staff) await learnStaff()
      return me
    },
    staleTime: Infinity,
    retry: (n, error) => !(error instanceof Problem && error.status === 401) && n < 5,
  })
