import { toValue, type MaybeRefOrGetter } from 'vue'
import { ask, type Schemas } from './client'
import { get, keys, type ID } from './queries'

export type Share = Schemas['Share']

/** What is shown on another page: a recording, or a playlist, the main one of its course without one. */
export interface Shared {
  course: string
  recording?: string
  list?: string
}

/** useShare is how something is shown on another page, and who can watch it there. */
export const useShare = (what: MaybeRefOrGetter<Shared>) =>
  get(
    () => keys.share(toValue(what)),
    () => {
      const { course, recording, list } = toValue(what)
      const query = { ...(recording && { recording }), ...(list && { list }) }
      return ask((c) => c.GET('/api/courses/{course}/share', { params: { path: { course }, query } }))
    },
  )

export const useEmbedSites = () =>
  get(
    () => keys.embedSites,
    () => ask((c) => c.GET('/api/embed-sites')),
  )

export const setEmbedSites = (sites: string[]) => ask((c) => c.PUT('/api/embed-sites', { body: { sites } }))

/** useOneList is a playlist of a course by itself; its main one without a list. */
export const useOneList = (course: ID, list: MaybeRefOrGetter<string | undefined>) =>
  get(
    () => keys.oneList(toValue(course), toValue(list)),
    () => {
      const at = toValue(list)
      const params = { path: { course: toValue(course) }, query: at ? { list: at } : {} }
      return ask((c) => c.GET('/api/courses/{course}/shown', { params }))
    },
  )

/** makeFrameKey is with what a page in a frame begins a session, of whoever has signed in here. */
export const makeFrameKey = () => ask((c) => c.POST('/api/frame/key'))

export const enterFrame = (key: string) => ask((c) => c.POST('/api/frame/enter', { body: { key } }))
