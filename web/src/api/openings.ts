/** Openings of a recording beside courses, the links to a playlist, and where a link leads. */
import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { toValue, type MaybeRefOrGetter } from 'vue'
import { ask, type Schemas } from './client'
import { get, keys } from './queries'

export type Opening = Schemas['OpeningLine']
export type OpeningForm = Schemas['OpeningForm']

/** What an opening opens: a recording, or a playlist of a course. */
export type Opens = { recording: string } | { course: string; list: string }
const isList = (of: Opens): of is { course: string; list: string } => 'list' in of
const idOf = (of: Opens) => (isList(of) ? of.list : of.recording)

export const useOpenings = (of: MaybeRefOrGetter<Opens>) =>
  get(
    () => keys.openings(idOf(toValue(of))),
    () => {
      const path = toValue(of)
      return isList(path)
        ? ask((c) => c.GET('/api/courses/{course}/playlists/{list}/openings', { params: { path } }))
        : ask((c) => c.GET('/api/recordings/{recording}/openings', { params: { path } }))
    },
  )

export const previewOpening = (path: Opens, body: OpeningForm) =>
  isList(path)
    ? ask((c) => c.POST('/api/courses/{course}/playlists/{list}/openings/preview', { params: { path }, body }))
    : ask((c) => c.POST('/api/recordings/{recording}/openings/preview', { params: { path }, body }))

export const peopleToName = (recording: string, words: string) =>
  ask((c) => c.GET('/api/recordings/{recording}/people', { params: { path: { recording }, query: { words } } }))

export type OpeningChange =
  | { do: 'open'; form: OpeningForm }
  | { do: 'change'; id: string; form: OpeningForm }
  | { do: 'take_back' | 'again' | 'renew'; id: string }

function changeOpening(recording: string, x: OpeningChange) {
  if (x.do === 'open') {
    const params = { path: { recording } }
    return ask((c) => c.POST('/api/recordings/{recording}/openings', { params, body: x.form }))
  }
  const at = { params: { path: { recording, opening: x.id } } }
  switch (x.do) {
    case 'change':
      return ask((c) => c.PUT('/api/recordings/{recording}/openings/{opening}', { ...at, body: x.form }))
    case 'take_back':
      return ask((c) => c.DELETE('/api/recordings/{recording}/openings/{opening}', at))
    case 'again':
      return ask((c) => c.POST('/api/recordings/{recording}/openings/{opening}/bring-back', at))
    case 'renew':
      return ask((c) => c.POST('/api/recordings/{recording}/openings/{opening}/renew', at))
  }
}

function changeListLink(of: { course: string; list: string }, x: OpeningChange) {
  if (x.do === 'open') {
    const params = { path: of }
    return ask((c) => c.POST('/api/courses/{course}/playlists/{list}/openings', { params, body: x.form }))
  }
  const at = { params: { path: { ...of, opening: x.id } } }
  switch (x.do) {
    case 'change':
      return ask((c) => c.PUT('/api/courses/{course}/playlists/{list}/openings/{opening}', { ...at, body: x.form }))
    case 'take_back':
      return ask((c) => c.DELETE('/api/courses/{course}/playlists/{list}/openings/{opening}', at))
    case 'again':
      return ask((c) => c.POST('/api/courses/{course}/playlists/{list}/openings/{opening}/bring-back', at))
    case 'renew':
      return ask((c) => c.POST('/api/courses/{course}/playlists/{list}/openings/{opening}/renew', at))
  }
}

export function useOpeningChange(of: () => Opens) {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (x: OpeningChange) => {
      const it = of()
      return isList(it) ? changeListLink(it, x) : changeOpening(it.recording, x)
    },
    onSuccess: (page) => client.setQueryData(keys.openings(idOf(of())), page),
  })
}

export const askLink = (key: string) => ask((c) => c.GET('/api/links/{key}', { params: { path: { key } } }))

export const comeByLink = (key: string, body: Schemas['ComeInputBody']) =>
  ask((c) => c.POST('/api/links/{key}', { params: { path: { key } }, body }))

/** useLinked is a playlist whose link one came by. */
export const useLinked = (opening: MaybeRefOrGetter<string>) =>
  get(
    () => keys.linked(toValue(opening)),
    () => ask((c) => c.GET('/api/linked/{opening}', { params: { path: { opening: toValue(opening) } } })),
    { refetchInterval: 30_000 }, // who came by a link is not told of every change
  )
