import { useQuery } from '@tanstack/vue-query'
import { setCollegeTime } from '../parts/clock'
import { ask, Problem } from './client'
import { keys } from './queries'

/** useMe is who has signed in. Its error has status 401 when nobody has. */
export const useMe = () =>
  useQuery({
    queryKey: keys.me,
    queryFn: async () => {
      const me = await ask((c) => c.GET('/api/me'))
      setCollegeTime(me.now)
      return me
    },
    staleTime: Infinity,
    retry: (n, error) => !(error instanceof Problem && error.status === 401) && n < 5,
  })
