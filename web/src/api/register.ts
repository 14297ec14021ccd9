/** Who was there: the register of a lecture, of a course, and one's own line. */
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import { ask, type Schemas } from './client'
import { base64 } from '../parts/base64'
import { get, keys, of, type ID } from './queries'

export type RegisterLine = Schemas['RegisterLine']
export type Stands = Schemas['StandsText']

const ofSeat = (lecture: string, person: string) => ({ params: { path: { lecture, person } } })

/** While a lecture is on, who is there changes without a word. */
export const useRegister = (lecture: ID) =>
  get(
    () => keys.register(toValue(lecture)),
    () => ask((c) => c.GET('/api/lectures/{lecture}/register', of.lecture(lecture))),
    { refetchInterval: 30_000 },
  )

export const markSeat = (lecture: string, person: string, body: Schemas['SeatMarkInputBody']) =>
  ask((c) => c.PUT('/api/lectures/{lecture}/register/{person}', { ...ofSeat(lecture, person), body }))

export const unmarkSeat = (lecture: string, person: string) =>
  ask((c) => c.DELETE('/api/lectures/{lecture}/register/{person}', ofSeat(lecture, person)))

export const bringRegister = async (lecture: string, file: File) => {
  const data = await base64(file)
  return ask((c) => c.POST('/api/lectures/{lecture}/register-file', { ...of.lecture(lecture), body: { data } }))
}

export const takeBackRegister = (lecture: string, file: string) =>
  ask((c) => c.DELETE('/api/lectures/{lecture}/register-file/{file}', { params: { path: { lecture, file } } }))

export const settleWord = (lecture: string, person: string, settled: boolean) =>
  ask((c) => c.PUT('/api/lectures/{lecture}/register/{person}/word', { ...ofSeat(lecture, person), body: { settled } }))

export const remindAbsent = (lecture: string) =>
  ask((c) => c.POST('/api/lectures/{lecture}/remind-absent', of.lecture(lecture)))

export const useRegisters = (course: ID, wanted: MaybeRefOrGetter<boolean>) =>
  get(
    () => keys.registers(toValue(course)),
    () => ask((c) => c.GET('/api/courses/{course}/registers', of.course(course))),
    { enabled: computed(() => toValue(wanted)) },
  )

export const setRegisterRules = (course: string, body: Schemas['RegisterRules']) =>
  ask((c) => c.PUT('/api/courses/{course}/register-rules', { ...of.course(course), body }))

export const useOwnRegister = (course: ID, wanted: MaybeRefOrGetter<boolean>) =>
  get(
    () => [...keys.registers(toValue(course)), 'own'],
    () => ask((c) => c.GET('/api/courses/{course}/own-register', of.course(course))),
    { enabled: computed(() => toValue(wanted)) },
  )

export const objectTo = (lecture: string, text: string) =>
  ask((c) => c.PUT('/api/lectures/{lecture}/own-register', { ...of.lecture(lecture), body: { text } }))

/** The code that is shown in the hall; when its time is over it is asked for again. */
export const useHallCode = (lecture: ID) =>
  get(
    () => keys.hallCode(toValue(lecture)),
    () => ask((c) => c.GET('/api/lectures/{lecture}/code', of.lecture(lecture))),
    {
      refetchInterval: (q: { state: { data?: Schemas['HallCode']; dataUpdatedAt: number } }) =>
        q.state.data ? q.state.data.left_ms + 50 : 2000,
      gcTime: 0,
    },
  )

export const signInHall = (lecture: string, code: string) =>
  ask((c) => c.POST('/api/lectures/{lecture}/here', { ...of.lecture(lecture), body: { code } }))
