/** How the students of a course have caught up with what they can watch. */
import { toValue } from 'vue'
import { ask, type Schemas } from './client'
import { get, keys, type ID } from './queries'

export type CaughtUp = Schemas['CaughtUp']

export const useCaughtUp = (course: ID, wanted: () => boolean) =>
  get(
    () => keys.caughtUp(toValue(course)),
    () => ask((c) => c.GET('/api/courses/{course}/caught-up', { params: { path: { course: toValue(course) } } })),
    { enabled: wanted },
  )

/** Of one recording, with what of it was watched, stretch by stretch. */
export const useWatchedCurve = (course: ID, recording: ID, wanted: () => boolean) =>
  get(
    () => keys.caughtUp(toValue(course), toValue(recording)),
    () =>
      ask((c) =>
        c.GET('/api/courses/{course}/recordings/{recording}/caught-up', {
          params: { path: { course: toValue(course), recording: toValue(recording) } },
        }),
      ),
    { enabled: wanted },
  )
