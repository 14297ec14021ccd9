import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { ask, type Schemas } from './client'
import { get, keys } from './queries'

/** A recorder says how it is every five seconds. */
export const useHalls = () => get(keys.halls, () => ask((c) => c.GET('/api/recorders')), { refetchInterval: 5000 })

const of = (recorder: string) => ({ params: { path: { recorder } } })

/** The address of what a recorder saw last; it changes when another picture has come. */
export const pictureOf = (r: Schemas['RecorderLine']) =>
  `/api/recorders/${r.id}/picture?at=${encodeURIComponent(r.pictured_at ?? '')}`

export const addRecorder = (hall: string, name: string) =>
  ask((c) => c.POST('/api/halls/{hall}/recorder', { params: { path: { hall } }, body: { name } }))

export const renewToken = (recorder: string) => ask((c) => c.POST('/api/recorders/{recorder}/token', of(recorder)))

export type RecorderChange =
  { do: 'hold'; holds: boolean } | { do: 'remove' | 'bring_back' | 'stop' } | { do: 'start'; lecture: string }

function changeRecorder(recorder: string, change: RecorderChange): Promise<unknown> {
  switch (change.do) {
    case 'hold':
      return ask((c) => c.PUT('/api/recorders/{recorder}/token', { ...of(recorder), body: { holds: change.holds } }))
    case 'remove':
      return ask((c) => c.DELETE('/api/recorders/{recorder}', of(recorder)))
    case 'bring_back':
      return ask((c) => c.POST('/api/recorders/{recorder}/bring-back', of(recorder)))
    case 'start':
      return ask((c) =>
        c.POST('/api/recorders/{recorder}/order', {
          ...of(recorder),
          body: { kind: 'start', lecture: change.lecture },
        }),
      )
    default:
      return ask((c) => c.POST('/api/recorders/{recorder}/order', { ...of(recorder), body: { kind: 'stop' } }))
  }
}

export function useRecorderChange() {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (x: { recorder: string; change: RecorderChange }) => changeRecorder(x.recorder, x.change),
    onSuccess: () => client.invalidateQueries({ queryKey: keys.halls }),
  })
}
