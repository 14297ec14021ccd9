/** What is asked and changed of captions, and of the words of a course. */
import { keepPreviousData, useQueryClient } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import { ask, type Schemas } from './client'
import { get, keys, of, type ID } from './queries'

export const useCaptions = (id: ID) =>
  get(
    () => keys.captions(toValue(id)),
    () => ask((c) => c.GET('/api/recordings/{recording}/captions', of.recording(id))),
  )

export const useCaptionPage = (id: ID, language: ID) =>
  get(
    () => keys.captionPage(toValue(id), toValue(language)),
    () => ask((c) => c.GET('/api/recordings/{recording}/captions/{language}', at(toValue(id), toValue(language)))),
    { enabled: computed(() => toValue(language) !== '') },
  )

const at = (recording: string, language: string) => ({ params: { path: { recording, language } } })
const atLine = (recording: string, language: string, line: string) => ({
  params: { path: { recording, language, line } },
})

export type Correction = { seen: string; text?: string; speaker?: string; all?: boolean }
export type Finding = { find: string; exact: boolean; whole: boolean }
export type Replacing = Finding & { with: string }

/** Where something stands in the lines, as long as something is looked for. */
export const useFound = (id: ID, language: ID, finding: MaybeRefOrGetter<Finding>) =>
  get(
    () => keys.found(toValue(id), toValue(language), toValue(finding)),
    () =>
      ask((c) =>
        c.GET('/api/recordings/{recording}/captions/{language}/found', {
          params: { path: { recording: toValue(id), language: toValue(language) }, query: toValue(finding) },
        }),
      ),
    { enabled: computed(() => toValue(finding).find !== ''), placeholderData: keepPreviousData },
  )

/** useCaptionChanges are the changes of captions in one language; each gives the page as it is then. */
export function useCaptionChanges(id: ID, language: ID) {
  const client = useQueryClient()
  const here = () => at(toValue(id), toValue(language))
  const line = (l: string) => atLine(toValue(id), toValue(language), l)
  const ofProposal = (proposal: string) => ({
    params: { path: { recording: toValue(id), language: toValue(language), proposal } },
  })
  const keep = (page: Schemas['CaptionPage']) => {
    client.setQueryData(keys.captionPage(toValue(id), toValue(language)), page)
    void client.invalidateQueries({ queryKey: keys.found(toValue(id), toValue(language)) })
    return page
  }
  const listed = (list: Schemas['CaptionList']) => {
    client.setQueryData(keys.captions(toValue(id)), list)
    for (const key of [
      keys.captionPage(toValue(id), toValue(language)),
      keys.board,
      keys.recording(toValue(id)),
      keys.strip(toValue(id)),
    ])
      void client.invalidateQueries({ queryKey: key })
    return list
  }
  return {
    correct: (l: string, body: Correction) =>
      ask((c) => c.PUT('/api/recordings/{recording}/captions/{language}/lines/{line}', { ...line(l), body })).then(
        keep,
      ),
    split: (l: string, place: number) =>
      ask((c) =>
        c.POST('/api/recordings/{recording}/captions/{language}/lines/{line}/split', {
          ...line(l),
          body: { at: place },
        }),
      ).then(keep),
    join: (l: string) =>
      ask((c) => c.POST('/api/recordings/{recording}/captions/{language}/lines/{line}/join', line(l))).then(keep),
    replace: (body: Replacing) =>
      ask((c) => c.POST('/api/recordings/{recording}/captions/{language}/replace', { ...here(), body })).then(keep),
    take: (proposal: string) =>
      ask((c) =>
        c.POST('/api/recordings/{recording}/captions/{language}/proposed/{proposal}/take', ofProposal(proposal)),
      ).then(keep),
    leave: (proposal: string) =>
      ask((c) =>
        c.POST('/api/recordings/{recording}/captions/{language}/proposed/{proposal}/leave', ofProposal(proposal)),
      ).then(keep),
    again: (proposal: string) =>
      ask((c) =>
        c.POST('/api/recordings/{recording}/captions/{language}/proposed/{proposal}/again', ofProposal(proposal)),
      ).then(keep),
    undo: () => ask((c) => c.POST('/api/recordings/{recording}/captions/{language}/undo', here())).then(keep),
    redo: () => ask((c) => c.POST('/api/recordings/{recording}/captions/{language}/redo', here())).then(keep),
    show: (on: boolean) =>
      ask((c) => c.PUT('/api/recordings/{recording}/captions/{language}/shown', { ...here(), body: { on } })).then(
        listed,
      ),
    look: (on: boolean) =>
      ask((c) => c.PUT('/api/recordings/{recording}/captions/{language}/looked', { ...here(), body: { on } })).then(
        listed,
      ),
    draft: () => ask((c) => c.POST('/api/recordings/{recording}/captions/{language}/draft', here())).then(listed),
  }
}

/** takeCaptions hands a file over; it is taken unless there is something to be known about it first. */
export const takeCaptions = (
  recording: string,
  body: { content: string; language?: string; published?: boolean; noted?: boolean },
) => ask((c) => c.POST('/api/recordings/{recording}/caption-files', { ...of.recording(recording), body }))

export const useHits = (id: ID, query: MaybeRefOrGetter<string>) =>
  get(
    () => keys.hits(toValue(id), toValue(query)),
    () =>
      ask((c) =>
        c.GET('/api/recordings/{recording}/search', {
          params: { path: { recording: toValue(id) }, query: { q: toValue(query) } },
        }),
      ),
    { enabled: computed(() => toValue(query) !== '') },
  )

export const useCourseWords = (course: ID) =>
  get(
    () => keys.courseWords(toValue(course)),
    () => ask((c) => c.GET('/api/courses/{course}/words', of.course(course))),
  )

export const setCourseWords = (course: string, body: { language: string; drafts: boolean; glossary: string }) =>
  ask((c) => c.PUT('/api/courses/{course}/words', { ...of.course(course), body }))

/** The captions of what is watched in another language; what plays stays what it is. */
export const useWatchCaptions = (id: ID, language: MaybeRefOrGetter<string>) =>
  get(
    () => keys.watchCaptions(toValue(id), toValue(language)),
    async () => {
      const page = await ask((c) =>
        c.GET('/api/watch/{recording}', {
          params: { path: { recording: toValue(id) }, query: { language: toValue(language) } },
        }),
      )
      return { cues: page.cues, language: page.language }
    },
    { enabled: computed(() => toValue(language) !== ''), staleTime: Infinity },
  )

export const useChapters = (id: ID) =>
  get(
    () => keys.chapters(toValue(id)),
    () => ask((c) => c.GET('/api/recordings/{recording}/chapters', of.recording(id))),
  )

export const setChapters = (
  recording: string,
  body: { seen: Schemas['Chapter'][]; chapters: Schemas['Chapter'][]; proposed?: boolean },
) => ask((c) => c.PUT('/api/recordings/{recording}/chapters', { ...of.recording(recording), body }))

export const turnChapters = (recording: string, which: 'undo' | 'redo') =>
  ask((c) => c.POST(`/api/recordings/{recording}/chapters/${which}`, of.recording(recording)))
