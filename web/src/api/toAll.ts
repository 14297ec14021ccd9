/** Questions to all: those that a course keeps, those that were put in a lecture, and what was answered. */
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import { base64 } from '../parts/base64'
import { ask, type Schemas } from './client'
import { get, keys, of, type ID } from './queries'

export type AskedQuestion = Schemas['AskedQuestion']
export type QuestionText = Schemas['QuestionText']
export type AnswerText = Schemas['AnswerText']

const ofAsked = (lecture: string, asked: string) => ({ params: { path: { lecture, asked } } })
const ofPrepared = (course: string, question: string) => ({ params: { path: { course, question } } })

/** Where all see what is answered while it is open, that changes without a word to them. */
export const useToAll = (lecture: ID, wanted: MaybeRefOrGetter<boolean> = true) =>
  get(
    () => keys.toAll(toValue(lecture)),
    () => ask((c) => c.GET('/api/lectures/{lecture}/to-all', of.lecture(lecture))),
    {
      enabled: computed(() => toValue(wanted)),
      refetchInterval: (q: { state: { data?: Schemas['ToAll'] } }) =>
        q.state.data?.questions.some((x) => x.open && x.shown) ? 10_000 : 30_000,
    },
  )

export const putToAll = (lecture: string, asked: string, question: QuestionText, seconds: number) =>
  ask((c) =>
    c.PUT('/api/lectures/{lecture}/to-all/{asked}', { ...ofAsked(lecture, asked), body: { question, seconds } }),
  )

export const changeToAll = (lecture: string, asked: string, body: Schemas['ToAllChangeInputBody']) =>
  ask((c) => c.POST('/api/lectures/{lecture}/to-all/{asked}/change', { ...ofAsked(lecture, asked), body }))

export const answerToAll = (lecture: string, asked: string, body: Schemas['AnswerBody']) =>
  ask((c) => c.PUT('/api/lectures/{lecture}/to-all/{asked}/answer', { ...ofAsked(lecture, asked), body }))

export const hideAnswer = (lecture: string, asked: string, person: string, hidden: boolean) =>
  ask((c) =>
    c.PUT('/api/lectures/{lecture}/to-all/{asked}/answers/{person}/hidden', {
      params: { path: { lecture, asked, person } },
      body: { hidden },
    }),
  )

/** Those that were put while a recording was captured; of another edition they are asked anew. */
export const useAskedIn = (recording: ID, edition: ID, uncut: MaybeRefOrGetter<boolean>, wanted: () => boolean) =>
  get(
    () => [...keys.askedIn(toValue(recording)), toValue(edition), toValue(uncut)],
    () =>
      ask((c) =>
        c.GET('/api/watch/{recording}/to-all', {
          params: { path: { recording: toValue(recording) }, query: { uncut: toValue(uncut) } },
        }),
      ),
    { enabled: computed(wanted) },
  )

export const answerLater = (recording: string, asked: string, body: Schemas['AnswerBody']) =>
  ask((c) => c.PUT('/api/watch/{recording}/to-all/{asked}/answer', { params: { path: { recording, asked } }, body }))

export const usePrepared = (course: ID, wanted: MaybeRefOrGetter<boolean> = true) =>
  get(
    () => keys.prepared(toValue(course)),
    () => ask((c) => c.GET('/api/courses/{course}/prepared-questions', of.course(course))),
    { enabled: computed(() => toValue(wanted)) },
  )

export const prepareQuestion = (course: string, id: string, body: QuestionText) =>
  ask((c) => c.PUT('/api/courses/{course}/prepared-questions/{question}', { ...ofPrepared(course, id), body }))

export const dropQuestion = (course: string, id: string) =>
  ask((c) => c.DELETE('/api/courses/{course}/prepared-questions/{question}', ofPrepared(course, id)))

export const bringBackQuestion = (course: string, id: string) =>
  ask((c) => c.POST('/api/courses/{course}/prepared-questions/{question}/bring-back', ofPrepared(course, id)))

export const bringQuestions = async (course: string, file: File) => {
  const data = await base64(file)
  return ask((c) => c.POST('/api/courses/{course}/prepared-questions-file', { ...of.course(course), body: { data } }))
}
