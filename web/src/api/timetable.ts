import { useMutation, useQueryClient } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import { ask, type Schemas } from './client'
import { get, keys, type ID } from './queries'

/** What goes with each lecture of a plan besides its time. */
export type Choices = Pick<Schemas['PlanText'], 'doorway' | 'opens_min' | 'capture_auto' | 'lead_min' | 'tail_min'>

const ofCourse = (id: ID) => ({ params: { path: { course: toValue(id) } } })
const ofLecture = (id: ID) => ({ params: { path: { lecture: toValue(id) } } })

export const useTerm = () => get(keys.term, () => ask((c) => c.GET('/api/term')))

export const useTerms = (wanted: MaybeRefOrGetter<boolean> = true) =>
  get(keys.terms, () => ask((c) => c.GET('/api/terms')), { enabled: computed(() => toValue(wanted)) })

export const useCourses = (term: ID = '') =>
  get(
    () => keys.courses(toValue(term)),
    () => ask((c) => c.GET('/api/courses', { params: { query: { term: toValue(term) } } })),
  )

export const useCourse = (course: ID) =>
  get(
    () => keys.course(toValue(course)),
    () => ask((c) => c.GET('/api/courses/{course}', ofCourse(course))),
  )

export const useRoom = (course: ID) =>
  get(
    () => keys.room(toValue(course)),
    () => ask((c) => c.GET('/api/courses/{course}/standing-room', ofCourse(course))),
  )

export const useDates = () => get(keys.dates, () => ask((c) => c.GET('/api/dates')))

/** Where recorders stand, how they are is asked for more often. */
export const useRunSheet = (day: ID) =>
  get(
    () => keys.runSheet(toValue(day)),
    () => ask((c) => c.GET('/api/run-sheet', { params: { query: { day: toValue(day) } } })),
    {
      refetchInterval: (q: { state: { data?: Schemas['RunSheet'] } }) =>
        q.state.data?.recorders.length ? 10_000 : 60_000,
    },
  )

/** Lectures that one teaches, that are on, and that nobody captures. They become so by the clock. */
export const useForgottenStarts = () =>
  get(['forgotten'], () => ask((c) => c.GET('/api/forgotten-starts')), { refetchInterval: 15_000 })

export const useLecturePage = (lecture: ID) =>
  get(
    () => keys.lecturePage(toValue(lecture)),
    () => ask((c) => c.GET('/api/lectures/{lecture}/page', ofLecture(lecture))),
    { refetchInterval: 60_000 }, // a door opens by the clock
  )

/** Who else follows a lecture, where its course lets names be seen. */
export const useWhoElse = (lecture: ID, often: MaybeRefOrGetter<boolean>) =>
  get(
    () => keys.whoElse(toValue(lecture)),
    () => ask((c) => c.GET('/api/lectures/{lecture}/who-else', ofLecture(lecture))),
    { refetchInterval: () => (toValue(often) ? 10_000 : 60_000) },
  )

export const remindMissed = (course: string, reminds: boolean) =>
  ask((c) => c.PUT('/api/courses/{course}/reminds', { params: { path: { course } }, body: { reminds } }))

export const seeNames = (course: string, seen: boolean) =>
  ask((c) => c.PUT('/api/courses/{course}/names-seen', { params: { path: { course } }, body: { seen } }))

export const useDoorway = (lecture: ID) =>
  get(
    () => keys.doorway(toValue(lecture)),
    () => ask((c) => c.GET('/api/lectures/{lecture}/doorway', ofLecture(lecture))),
    { refetchInterval: 10_000 }, // who is in changes without a word
  )

export const previewPlan = (course: string, plan: Schemas['PlanText']) =>
  ask((c) => c.POST('/api/courses/{course}/plans/preview', { ...ofCourse(course), body: plan }))

export const addPlan = (course: string, plan: Schemas['PlanText']) =>
  ask((c) => c.POST('/api/courses/{course}/plans', { ...ofCourse(course), body: plan }))

export const removePlan = (course: string, plan: string) =>
  ask((c) => c.DELETE('/api/courses/{course}/plans/{plan}', { params: { path: { course, plan } } }))

export const undoChange = (course: string, change: string) =>
  ask((c) => c.POST('/api/courses/{course}/changes/{change}/undo', { params: { path: { course, change } } }))

export const previewEdit = (lecture: string, edit: Schemas['EditText']) =>
  ask((c) => c.POST('/api/lectures/{lecture}/edit/preview', { ...ofLecture(lecture), body: edit }))

export const editLecture = (lecture: string, edit: Schemas['EditText']) =>
  ask((c) => c.POST('/api/lectures/{lecture}/edit', { ...ofLecture(lecture), body: edit }))

export const previewTimetable = (course: string, calendar: string) =>
  ask((c) => c.POST('/api/courses/{course}/timetable/preview', { ...ofCourse(course), body: { calendar } }))

export const importTimetable = (course: string, calendar: string) =>
  ask((c) => c.POST('/api/courses/{course}/timetable', { ...ofCourse(course), body: { calendar } }))

export const useRoomFor = (course: string, topic: string) =>
  ask((c) => c.POST('/api/courses/{course}/standing-room', { ...ofCourse(course), body: { topic } }))

export const addLesson = (course: string, week: string, topic: string) =>
  ask((c) => c.POST('/api/courses/{course}/lessons', { ...ofCourse(course), body: { week, topic } }))

export const askToEnter = (lecture: string) => ask((c) => c.POST('/api/lectures/{lecture}/ask', ofLecture(lecture)))

export type DoorwayChange =
  | { do: 'invite'; guest: Schemas['GuestText'] }
  | { do: 'take_back' | 'bring_back'; guest: string }
  | { do: 'let_in'; person: string }
  /** Who waits at the door, or who is in. */
  | { do: 'send_out'; person: string; word?: string }
  | { do: 'let_all_in' }
  | { do: 'open'; open: boolean }

function changeDoorway(lecture: string, change: DoorwayChange): Promise<Schemas['AtDoor']> {
  switch (change.do) {
    case 'let_all_in':
      return ask((c) => c.PUT('/api/lectures/{lecture}/asking', { ...ofLecture(lecture), body: { let_in: true } }))
    case 'open':
      return ask((c) =>
        c.PUT('/api/lectures/{lecture}/doorway-open', { ...ofLecture(lecture), body: { open: change.open } }),
      )
    case 'invite':
      return ask((c) => c.POST('/api/lectures/{lecture}/guests', { ...ofLecture(lecture), body: change.guest }))
    case 'take_back':
      return ask((c) =>
        c.DELETE('/api/lectures/{lecture}/guests/{guest}', { params: { path: { lecture, guest: change.guest } } }),
      )
    case 'bring_back':
      return ask((c) =>
        c.POST('/api/lectures/{lecture}/guests/{guest}/bring-back', {
          params: { path: { lecture, guest: change.guest } },
        }),
      )
    default:
      return ask((c) =>
        c.PUT('/api/lectures/{lecture}/asking/{person}', {
          params: { path: { lecture, person: change.person } },
          body: change.do === 'let_in' ? { let_in: true } : { let_in: false, word: change.word },
        }),
      )
  }
}

export function useDoorwayChange(lecture: ID) {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (change: DoorwayChange) => changeDoorway(toValue(lecture), change),
    onSuccess: (page) => client.setQueryData(keys.doorway(toValue(lecture)), page),
  })
}

/** Ends a class for everyone in a moment, or takes that back. */
export function useClassEnd(lecture: ID) {
  const client = useQueryClient()
  return useMutation({
    mutationFn: (back: boolean) =>
      ask((c) =>
        back
          ? c.DELETE('/api/lectures/{lecture}/end-class', ofLecture(lecture))
          : c.POST('/api/lectures/{lecture}/end-class', ofLecture(lecture)),
      ),
    onSuccess: (page) => client.setQueryData(keys.doorway(toValue(lecture)), page),
  })
}

export type TermChange =
  | { do: 'term'; id?: string; term: Schemas['TermText'] }
  | { do: 'hall'; id?: string; name: string }
  | { do: 'remove_term' | 'remove_hall'; id: string }

function changeTerms(change: TermChange): Promise<Schemas['TermsAndHalls']> {
  switch (change.do) {
    case 'term':
      return change.id
        ? ask((c) => c.PUT('/api/terms/{term}', { params: { path: { term: change.id! } }, body: change.term }))
        : ask((c) => c.POST('/api/terms', { body: change.term }))
    case 'hall':
      return change.id
        ? ask((c) =>
            c.PUT('/api/halls/{hall}', { params: { path: { hall: change.id! } }, body: { name: change.name } }),
          )
        : ask((c) => c.POST('/api/halls', { body: { name: change.name } }))
    case 'remove_term':
      return ask((c) => c.DELETE('/api/terms/{term}', { params: { path: { term: change.id } } }))
    case 'remove_hall':
      return ask((c) => c.DELETE('/api/halls/{hall}', { params: { path: { hall: change.id } } }))
  }
}

export function useTermChange() {
  const client = useQueryClient()
  return useMutation({
    mutationFn: changeTerms,
    onSuccess: (page) => client.setQueryData(keys.terms, page),
  })
}

export const addCourse = (term: string, code: string, title: string) =>
  ask((c) => c.POST('/api/courses', { body: { term, code, title } }))

export const changeCourse = (course: string, term: string, code: string, title: string) =>
  ask((c) => c.PUT('/api/courses/{course}', { ...ofCourse(course), body: { term, code, title } }))

export const removeCourse = (course: string) => ask((c) => c.DELETE('/api/courses/{course}', ofCourse(course)))
