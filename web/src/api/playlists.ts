import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import { ask, type Schemas } from './client'
import { sendHandout, type Sent } from './handouts'
import { get, keys, of, type ID } from './queries'

export type PlaylistPage = Schemas['PlaylistPage']
export type Entry = Schemas['PlaylistLine']
export type ListLine = Schemas['ListLine']
export type ListText = Schemas['ListText']
export type EntryText = Schemas['EntryText']
export type FillText = Schemas['FillText']

/** A playlist that a course shows; its main one without a list. */
export interface ListOf {
  course: string
  list?: string
}

const at = (l: ListOf) => ({ params: { path: { course: l.course }, query: l.list ? { list: l.list } : {} } })

export const usePlaylist = (list: MaybeRefOrGetter<ListOf>) =>
  get(
    () => keys.playlist(toValue(list).course, toValue(list).list),
    () => ask((c) => c.GET('/api/courses/{course}/playlist', at(toValue(list)))),
    { enabled: computed(() => toValue(list).course !== '') },
  )

/** useOffered are playlists of other courses that a course could show, asked for once they are wanted. */
export const useOffered = (course: ID, wanted: MaybeRefOrGetter<boolean>) =>
  get(
    () => keys.offered(toValue(course)),
    () => ask((c) => c.GET('/api/courses/{course}/playlists/offered', of.course(course))),
    { enabled: computed(() => toValue(wanted)) },
  )

/** useAddable are the recordings of another course that could be put into a playlist. */
export const useAddable = (list: MaybeRefOrGetter<ListOf>, from: ID) =>
  get(
    () => keys.addable(toValue(list).course, toValue(list).list, toValue(from)),
    () => {
      const { path, query } = at(toValue(list)).params
      return ask((c) =>
        c.GET('/api/courses/{course}/playlist/addable', { params: { path, query: { ...query, from: toValue(from) } } }),
      )
    },
    { enabled: computed(() => toValue(from) !== '') },
  )

export type PlaylistChange =
  | { do: 'add'; recordings: string[] }
  | { do: 'heading'; text: EntryText }
  | { do: 'page'; text: EntryText }
  | { do: 'file'; sent: Sent }
  | { do: 'file again'; file: string; title: string }
  | { do: 'word'; entry: string; text: EntryText }
  | { do: 'move'; entries: string[]; before?: string }
  | { do: 'remove'; entries: string[] }
  | { do: 'list'; text: ListText }
  | { do: 'take away' | 'bring back' }
  | { do: 'show'; shown: boolean }

export function changePlaylist(l: ListOf, change: PlaylistChange): Promise<PlaylistPage> {
  const where = at(l)
  const named = { params: { path: { course: l.course, list: l.list ?? '' } } }
  switch (change.do) {
    case 'add':
      return ask((c) =>
        c.POST('/api/courses/{course}/playlist/recordings', { ...where, body: { recordings: change.recordings } }),
      )
    case 'heading':
      return ask((c) => c.POST('/api/courses/{course}/playlist/headings', { ...where, body: change.text }))
    case 'page':
      return ask((c) => c.POST('/api/courses/{course}/playlist/pages', { ...where, body: change.text }))
    case 'file':
      return sendHandout(l, change.sent)
    case 'file again': {
      const { path, query } = where.params
      const params = { path: { ...path, file: change.file }, query }
      return ask((c) =>
        c.POST('/api/courses/{course}/playlist/files/{file}/back', { params, body: { title: change.title } }),
      )
    }
    case 'word': {
      const { path, query } = where.params
      const params = { path: { ...path, entry: change.entry }, query }
      return ask((c) => c.PUT('/api/courses/{course}/playlist/entries/{entry}', { params, body: change.text }))
    }
    case 'move':
      return ask((c) =>
        c.POST('/api/courses/{course}/playlist/moves', {
          ...where,
          body: { entries: change.entries, before: change.before },
        }),
      )
    case 'remove':
      return ask((c) =>
        c.POST('/api/courses/{course}/playlist/removals', { ...where, body: { entries: change.entries } }),
      )
    case 'list':
      return ask((c) => c.PUT('/api/courses/{course}/playlists/{list}', { ...named, body: change.text }))
    case 'take away':
      return ask((c) => c.DELETE('/api/courses/{course}/playlists/{list}', named))
    case 'bring back':
      return ask((c) => c.POST('/api/courses/{course}/playlists/{list}/back', named))
    case 'show':
      return ask((c) =>
        c.PUT('/api/courses/{course}/playlists/{list}/shown', { ...named, body: { shown: change.shown } }),
      )
  }
}

export const addPlaylist = (course: string, text: ListText) =>
  ask((c) => c.POST('/api/courses/{course}/playlists', { ...of.course(course), body: text }))

const filling = (l: ListOf) => ({ params: { path: { course: l.course, list: l.list ?? '' } } })

/** previewFilling says what a sentence would bring into a playlist. */
export const previewFilling = (l: ListOf, text: FillText) =>
  ask((c) => c.POST('/api/courses/{course}/playlists/{list}/filling/preview', { ...filling(l), body: text }))

export const setFilling = (l: ListOf, text: FillText) =>
  ask((c) => c.PUT('/api/courses/{course}/playlists/{list}/filling', { ...filling(l), body: text }))

/** bringPlaylist makes a playlist from a file; what of it is left out comes back by its lines. */
export const bringPlaylist = (course: string, file: string, title?: string) =>
  ask((c) => c.POST('/api/courses/{course}/playlists/file', { ...of.course(course), body: { file, title } }))

/** How a playlist can be taken: as a list, a list for players, a sheet, or links for a course page elsewhere. */
export const listFiles = { xspf: 'XSPF', m3u: 'M3U', csv: 'CSV', imscc: 'Common Cartridge' }
export type ListFile = keyof typeof listFiles

/** playlistFile is where a playlist is taken as a file. */
export const playlistFile = (l: ListOf, kind: ListFile) =>
  `/api/courses/${l.course}/playlist/file?${new URLSearchParams({ kind, ...(l.list && { list: l.list }) })}`

export function usePlaylistChange(list: MaybeRefOrGetter<ListOf>) {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (change: PlaylistChange) => changePlaylist(toValue(list), change),
    onSuccess: async (page, change) => {
      const { course, list: id } = toValue(list)
      if (['list', 'take away', 'bring back', 'show'].includes(change.do)) {
        void client.invalidateQueries({ queryKey: keys.playlists(course) })
        return
      }
      // What was asked before the change must not come in over it.
      await client.cancelQueries({ queryKey: keys.playlist(course, id) })
      client.setQueryData(keys.playlist(course, id), page)
    },
    onError: () => client.invalidateQueries({ queryKey: keys.playlists(toValue(list).course) }),
  })
}
