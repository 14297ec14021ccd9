/** What is asked and changed of titles, many at once. */
import { toValue, type MaybeRefOrGetter } from 'vue'
import { ask, type Schemas } from './client'
import { get, keys, of } from './queries'

/** useTitles are titles as they are and as they would be made: of one course, by a pattern that is only tried. */
export const useTitles = (course: MaybeRefOrGetter<string>, pattern: MaybeRefOrGetter<string>) =>
  get(
    () => keys.titles(toValue(course), toValue(pattern)),
    () =>
      ask((c) =>
        c.GET('/api/titles', {
          params: { query: { course: toValue(course) || undefined, pattern: toValue(pattern) || undefined } },
        }),
      ),
    { placeholderData: (before: unknown) => before },
  )

export const giveTitles = (titles: Schemas['Retitle'][]) => ask((c) => c.POST('/api/titles', { body: { titles } }))

export const keepPattern = (course: string, pattern: string) =>
  ask((c) => c.PUT('/api/courses/{course}/title-pattern', { ...of.course(course), body: { pattern } }))

export const setAbout = (recording: string, body: { language: string; keywords: string[] }) =>
  ask((c) => c.PUT('/api/recordings/{recording}/about', { ...of.recording(recording), body }))
