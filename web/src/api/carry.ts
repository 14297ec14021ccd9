/** What is asked and done to carry a course to another term. */
import { toValue } from 'vue'
import { ask, type Schemas } from './client'
import { get, keys, of, type ID } from './queries'

export type CarryForm = Schemas['CarryText']

export const useCarryChoice = (course: ID) =>
  get(
    () => keys.carry(toValue(course)),
    () => ask((c) => c.GET('/api/courses/{course}/carry', of.course(course))),
  )

export const previewCarry = (course: string, body: CarryForm) =>
  ask((c) => c.POST('/api/courses/{course}/carry/preview', { ...of.course(course), body }))

export const carryCourse = (course: string, body: CarryForm) =>
  ask((c) => c.POST('/api/courses/{course}/carry', { ...of.course(course), body }))

/** undoCarry takes back that something was carried to a course. */
export const undoCarry = (course: string) => ask((c) => c.POST('/api/courses/{course}/carry/undo', of.course(course)))
