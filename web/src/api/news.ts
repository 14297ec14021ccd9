import { useQueryClient } from '@tanstack/vue-query'
import { toValue } from 'vue'
import { ask, type Schemas } from './client'
import { get, keys, of, type ID } from './queries'

export type NewsPage = Schemas['NewsPage']
export type NewsEffect = Schemas['NewsEffect']
export type NewsWhy = Schemas['NewsWhy']
export type Often = Schemas['Wish']['often']

export const oftens: Often[] = ['at_once', 'daily', 'weekly', 'never']

/** What a course could tell its students, and what it told them. */
export const useCourseNews = (course: ID) =>
  get(
    () => keys.courseNews(toValue(course)),
    () => ask((c) => c.GET('/api/courses/{course}/news', of.course(course))),
  )

export const previewNews = (course: string, recordings: string[]) =>
  ask((c) => c.POST('/api/courses/{course}/news/preview', { ...of.course(course), body: { recordings } }))

export const tellStudents = (course: string, recordings: string[]) =>
  ask((c) => c.POST('/api/courses/{course}/news', { ...of.course(course), body: { recordings } }))

export const takeNewsBack = (course: string, news: string) =>
  ask((c) => c.POST('/api/courses/{course}/news/{news}/undo', { params: { path: { course, news } } }))

/** forgetPlanned has students not be told of a recording after all. */
export const forgetPlanned = (course: string, recording: string) =>
  ask((c) => c.DELETE('/api/courses/{course}/news/planned/{of}', { params: { path: { course, of: recording } } }))

export const setTemplate = (course: string, template: string) =>
  ask((c) => c.PUT('/api/courses/{course}/news/template', { ...of.course(course), body: { template } }))

/** What is new to one; what is said in a chat is not told of here, since it is said often. */
export const useNotices = () => get(keys.news, () => ask((c) => c.GET('/api/news')), { refetchInterval: 300_000 })

/** What of it one can say to have seen: recordings that one was told of, and questions that were answered. */
export interface Seen {
  recordings: string[]
  questions: string[]
}

/** useSeen keeps that one has seen of what is new, or takes that back. */
export function useSeen() {
  const client = useQueryClient()
  return async (what: Seen, seen: boolean) => {
    await ask((c) => c.PUT('/api/news/seen', { body: { ...what, seen } }))
    await client.invalidateQueries({ queryKey: keys.news })
  }
}

/** How often one wants mail; with the key of a mail, without having signed in. */
export const wish = (key?: string) =>
  key === undefined
    ? ask((c) => c.GET('/api/account/news'))
    : ask((c) => c.GET('/api/stop/{key}', { params: { path: { key } } }))

export const setWish = (often: Often, key?: string) =>
  key === undefined
    ? ask((c) => c.PUT('/api/account/news', { body: { often } }))
    : ask((c) => c.PUT('/api/stop/{key}', { params: { path: { key } }, body: { often } }))

/** At whose address no mail arrives. */
export const useAstray = () => get(keys.astray, () => ask((c) => c.GET('/api/astray')))

export const tryAgain = (person: string) =>
  ask((c) => c.DELETE('/api/astray/{person}', { params: { path: { person } } }))

/** setSilent says that the students of a course need not be told of recordings, or are to be after all. */
export const setSilent = (course: string, recordings: string[], silent: boolean) =>
  ask((c) => c.PUT('/api/courses/{course}/news/silent', { params: { path: { course } }, body: { recordings, silent } }))
