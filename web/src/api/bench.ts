/** What is asked and changed on the trim bench. */
import { useMutation, useQueryClient, type QueryClient } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import { ask, type Schemas } from './client'
import { get, keys, of, type ID } from './queries'

export const useBench = (id: ID) =>
  get(
    () => keys.recording(toValue(id)),
    () => ask((c) => c.GET('/api/recordings/{recording}', of.recording(id))),
  )

export const useStrip = (id: ID, ready: MaybeRefOrGetter<boolean>) =>
  get(
    () => keys.strip(toValue(id)),
    () => ask((c) => c.GET('/api/recordings/{recording}/strip', of.recording(id))),
    { enabled: computed(() => toValue(ready)) },
  )

/** The cuts that a change makes a version of. */
export const cuts: BenchChange['do'][] = [
  'strike',
  'restore',
  'move',
  'silence',
  'lead',
  'follow',
  'as_is',
  'bring_back',
]

/** A change of a recording. The answer is the whole bench, so nothing needs to be asked again. */
export type BenchChange =
  | { do: 'title'; title: string }
  | { do: 'description'; description: string }
  | { do: 'strike' | 'restore' | 'move' | 'lead' | 'follow'; start: number; end: number }
  | { do: 'bring_back'; version: string }
  | { do: 'silence'; start: number }
  | { do: 'as_is' | 'undo' | 'redo' }
  | { do: 'light' | 'darken' }

/** changeBench makes a change; of cuts, to the version from, unless that is left out. */
export function changeBench(id: string, change: BenchChange, from?: string): Promise<Schemas['Bench']> {
  const at = of.recording(id)
  switch (change.do) {
    case 'title':
      return ask((c) => c.PUT('/api/recordings/{recording}/title', { ...at, body: { title: change.title } }))
    case 'description':
      return ask((c) =>
        c.PUT('/api/recordings/{recording}/description', { ...at, body: { description: change.description } }),
      )
    case 'strike':
    case 'restore':
    case 'move':
    case 'lead':
    case 'follow':
      return ask((c) =>
        c.POST('/api/recordings/{recording}/cuts', {
          ...at,
          body: { cut: change.do, start: Math.round(change.start), end: Math.round(change.end), from },
        }),
      )
    case 'silence':
      return ask((c) =>
        c.POST('/api/recordings/{recording}/cuts', { ...at, body: { cut: 'silence', start: change.start, from } }),
      )
    case 'bring_back':
      return ask((c) =>
        c.POST('/api/recordings/{recording}/versions/{version}/bring-back', {
          params: { path: { recording: id, version: change.version } },
          body: { from },
        }),
      )
    case 'light':
      return ask((c) => c.POST('/api/recordings/{recording}/light', at))
    case 'darken':
      return ask((c) => c.POST('/api/recordings/{recording}/darken', at))
    default:
      return ask((c) => c.POST('/api/recordings/{recording}/cuts', { ...at, body: { cut: change.do, from } }))
  }
}

export function useBenchChange(id: ID) {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (x: { change: BenchChange; from?: string }) => changeBench(toValue(id), x.change, x.from),
    onSuccess: async (bench) => {
      // What was asked before the change must not come in over it.
      await client.cancelQueries({ queryKey: keys.recording(bench.id) })
      client.setQueryData(keys.recording(bench.id), bench)
      void client.invalidateQueries({ queryKey: keys.board })
      void client.invalidateQueries({ queryKey: keys.audiences(bench.id) })
    },
  })
}

/** takeTimeline takes the cuts of a timeline (OpenTimelineIO) over. */
export const takeTimeline = (id: string, timeline: string, from: string) =>
  ask((c) => c.POST('/api/recordings/{recording}/timeline', { ...of.recording(id), body: { timeline, from } }))

export const useVersions = (id: ID, open: MaybeRefOrGetter<boolean>) =>
  get(
    () => keys.versions(toValue(id)),
    () => ask((c) => c.GET('/api/recordings/{recording}/versions', of.recording(id))),
    { enabled: computed(() => toValue(open)) },
  )

export const useTwins = (id: ID, ready: MaybeRefOrGetter<boolean>) =>
  get(
    () => keys.twins(toValue(id)),
    () => ask((c) => c.GET('/api/recordings/{recording}/twins', of.recording(id))),
    { enabled: computed(() => toValue(ready)) },
  )

export const wantBoth = (recording: string, other: string, both: boolean) =>
  ask((c) =>
    c.PUT('/api/recordings/{recording}/twins/{other}', { params: { path: { recording, other } }, body: { both } }),
  )

export const useLecturesAfter = (id: ID) =>
  get(
    () => keys.lecturesAfter(toValue(id)),
    () => ask((c) => c.GET('/api/recordings/{recording}/lectures-after', of.recording(id))),
  )

export const split = (recording: string, at: number, lecture?: string) =>
  ask((c) =>
    c.POST('/api/recordings/{recording}/split', {
      ...of.recording(recording),
      body: { at_ms: Math.round(at), lecture },
    }),
  )

export const join = (recording: string, other: string) =>
  ask((c) => c.POST('/api/recordings/{recording}/join', { ...of.recording(recording), body: { other } }))

export const undoArrangement = (recording: string, rearrangement: string) =>
  ask((c) =>
    c.POST('/api/recordings/{recording}/rearrangements/{rearrangement}/undo', {
      params: { path: { recording, rearrangement } },
    }),
  )

/** rearranged makes everything old that splitting and joining change. */
export function rearranged(client: QueryClient): void {
  for (const about of ['recording', 'strip', 'board', 'lecture', 'bin', 'playlist', 'all'])
    void client.invalidateQueries({ queryKey: [about] })
}

export const setDeleted = (recording: string, deleted: boolean) =>
  deleted
    ? ask((c) => c.DELETE('/api/recordings/{recording}', of.recording(recording)))
    : ask((c) => c.POST('/api/recordings/{recording}/bring-back', of.recording(recording)))

export const useBin = () => get(keys.bin, () => ask((c) => c.GET('/api/bin')))

export const trimEnds = (course: string, trims: boolean) =>
  ask((c) => c.PUT('/api/courses/{course}/trim-ends', { params: { path: { course } }, body: { trims } }))
