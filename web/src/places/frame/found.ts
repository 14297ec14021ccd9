/** Where what was found by its name is. */
import type { RouteLocationRaw } from 'vue-router'
import type { Schemas } from '../../api/client'

export type Found = Schemas['FoundLine']

/** placeOf is the page at which something is worked on or, when that is not for who asks, looked at. */
export function placeOf(f: Found): RouteLocationRaw {
  switch (f.kind) {
    case 'course':
      return { name: 'course', params: { course: f.id } }
    case 'lecture':
      return { name: 'lecture', params: { lecture: f.id } }
    case 'recording':
      return { name: f.teaches ? 'trim-bench' : 'watch', params: { recording: f.id } }
    case 'hall':
      return { name: f.teaches ? 'halls' : 'run-sheet' }
    default:
      return f.course_id
        ? { name: 'course-people', params: { course: f.course_id }, query: { words: f.email } }
        : { name: 'people', query: { words: f.email } }
  }
}
