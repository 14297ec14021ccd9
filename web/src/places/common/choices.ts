import type { Schemas } from '../../api/client'

type Course = { id: string; code: string; title: string; role?: string }

/** taught are the courses that someone teaches, to choose from; for who coordinates, all. */
export const taught = (courses: Course[], me: Schemas['Me'] | undefined) =>
  courseChoices(courses.filter((c) => me?.coordinator || c.role === 'lecturer' || c.role === 'assistant'))

/** courseChoices are courses to choose from, by code and title. */
export const courseChoices = (courses: { id: string; code: string; title: string }[]) =>
  courses.map((c) => ({ value: c.id, text: `${c.code} ${c.title}` }))
