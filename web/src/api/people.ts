import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { toValue } from 'vue'
import { ask, type Schemas } from './client'
import { get, keys, type ID } from './queries'

const ofCourse = (id: ID) => ({ params: { path: { course: toValue(id) } } })

export const useCoursePeople = (course: ID) =>
  get(
    () => keys.people(toValue(course)),
    () => ask((c) => c.GET('/api/courses/{course}/people', ofCourse(course))),
  )

export const usePeople = (words: ID, inactive: () => boolean) =>
  get(
    () => ['people', 'all', toValue(words), inactive()],
    () => ask((c) => c.GET('/api/people', { params: { query: { words: toValue(words), inactive: inactive() } } })),
    { placeholderData: (before: unknown) => before },
  )

/** useRosterChange enrols someone, or takes them off. */
export function useRosterChange(course: ID) {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (change: { enrol: Schemas['MemberText'] } | { off: string }) =>
      'enrol' in change
        ? ask((c) => c.POST('/api/courses/{course}/people', { ...ofCourse(course), body: change.enrol }))
        : ask((c) =>
            c.DELETE('/api/courses/{course}/people/{person}', {
              params: { path: { course: toValue(course), person: change.off } },
            }),
          ),
    onSuccess: (page) => client.setQueryData(keys.people(toValue(course)), page),
  })
}

/** previewOff says what taking someone off a course would change. */
export const previewOff = (course: string, person: string) =>
  ask((c) => c.GET('/api/courses/{course}/people/{person}/off', { params: { path: { course, person } } }))

/** invite sends letters that activate accounts: to some people, or to all whose account is not yet active. */
export const invite = (course: string | undefined, people: string[] | undefined, again: boolean) =>
  course
    ? ask((c) => c.POST('/api/courses/{course}/invitations', { ...ofCourse(course), body: { people, again } }))
    : ask((c) => c.POST('/api/invitations', { body: { people, again } }))

export const addPerson = (email: string, name: string) => ask((c) => c.POST('/api/people', { body: { email, name } }))

export const setCoordinator = (person: string, coordinator: boolean) =>
  ask((c) => c.PUT('/api/people/{person}/coordinator', { params: { path: { person } }, body: { coordinator } }))

export const endSessions = (person: string) =>
  ask((c) => c.POST('/api/people/{person}/end-sessions', { params: { path: { person } } }))

export const setClosed = (person: string, closed: boolean) =>
  ask((c) => c.PUT('/api/people/{person}/closed', { params: { path: { person } }, body: { closed } }))

export const previewRoster = (term: string, files: Schemas['RosterFile'][]) =>
  ask((c) => c.POST('/api/terms/{term}/roster/preview', { params: { path: { term } }, body: { files, digest: '' } }))

export const importRoster = (term: string, files: Schemas['RosterFile'][], digest: string) =>
  ask((c) => c.POST('/api/terms/{term}/roster', { params: { path: { term } }, body: { files, digest } }))

export type FeedOf = { kind: 'own' } | { kind: 'course' | 'hall'; id: string }

/** feedAddress is the private address of a feed; with renew a new one, and the old one ends. */
export function feedAddress(of: FeedOf, renew: boolean): Promise<Schemas['FeedAddress']> {
  switch (of.kind) {
    case 'own':
      return renew ? ask((c) => c.POST('/api/feed')) : ask((c) => c.GET('/api/feed'))
    case 'course': {
      const at = { params: { path: { course: of.id } } }
      return renew
        ? ask((c) => c.POST('/api/courses/{course}/feed', at))
        : ask((c) => c.GET('/api/courses/{course}/feed', at))
    }
    case 'hall': {
      const at = { params: { path: { hall: of.id } } }
      return renew ? ask((c) => c.POST('/api/halls/{hall}/feed', at)) : ask((c) => c.GET('/api/halls/{hall}/feed', at))
    }
  }
}
