import { ask, type Schemas } from './client'

export type RecordingFeed = Schemas['RecordingFeed']

/** ownFeed is the feed of a course or of one of its playlists; with renew at a new address, and the old one ends. */
export function ownFeed(course: string, list: string, renew = false): Promise<RecordingFeed> {
  const at = { params: { path: { course }, query: list ? { list } : {} } }
  return renew
    ? ask((c) => c.POST('/api/courses/{course}/recording-feed', at))
    : ask((c) => c.GET('/api/courses/{course}/recording-feed', at))
}
