import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { ask, type Schemas } from './client'
import { get, keys } from './queries'

/** Copies that are made say every few seconds how long they still take. */
export const useFiles = () =>
  get(keys.files, () => ask((c) => c.GET('/api/arrivals')), {
    refetchInterval: (q: { state: { data?: Schemas['Arrivals'] } }) =>
      q.state.data?.files.some((f) => f.state !== 'ready' && f.state !== 'waits' && f.state !== 'faulty')
        ? 3000
        : false,
  })

const of = (track: string) => ({ params: { path: { track } } })

export const placeFile = (track: string, lecture: string) =>
  ask((c) => c.PUT('/api/arrivals/{track}/lecture', { ...of(track), body: { lecture } }))

export const putAway = (track: string) => ask((c) => c.DELETE('/api/arrivals/{track}', of(track)))

export const bringBack = (track: string) => ask((c) => c.POST('/api/arrivals/{track}/bring-back', of(track)))

/** usePlaceFile says of which lecture a file is. */
export function usePlaceFile() {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (x: { track: string; lecture: string }) => placeFile(x.track, x.lecture),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: keys.board })
      return client.invalidateQueries({ queryKey: keys.files })
    },
  })
}

export const keepOriginals = (course: string, days: number) =>
  ask((c) => c.PUT('/api/courses/{course}/originals', { params: { path: { course } }, body: { days } }))
