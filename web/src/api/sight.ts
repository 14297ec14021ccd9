import { toValue, type MaybeRefOrGetter } from 'vue'
import { ask, type Schemas } from './client'
import { get } from './queries'

/** Whose eyes: those of a person, of anyone of a group (of none when it is empty), or of whoever has a link. */
export interface Eyes {
  person?: string
  group?: string
  opening?: string
}
export type SightLine = Schemas['SightLine']

export const useSight = (course: MaybeRefOrGetter<string>, eyes: MaybeRefOrGetter<Eyes>) =>
  get(
    () => ['sight', toValue(course), toValue(eyes)],
    () =>
      ask((c) =>
        c.GET('/api/courses/{course}/sight', { params: { path: { course: toValue(course) }, query: toValue(eyes) } }),
      ),
    { refetchInterval: 15_000 },
  )

export const useSightOf = (course: MaybeRefOrGetter<string>, recording: MaybeRefOrGetter<string>, eyes: () => Eyes) =>
  get(
    () => ['sight', toValue(course), toValue(eyes), toValue(recording)],
    () =>
      ask((c) =>
        c.GET('/api/courses/{course}/sight/{recording}', {
          params: { path: { course: toValue(course), recording: toValue(recording) }, query: eyes() },
        }),
      ),
  )
