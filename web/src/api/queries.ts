import { useQuery } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import { ask, Problem, type Schemas } from './client'

/** Every key begins with what it is about, so that an event can name what to ask again. */
export const keys = {
  me: ['me'] as const,
  term: ['term'] as const,
  terms: ['terms'] as const,
  courses: (term: string) => ['courses', term] as const,
  course: (id: string) => ['course', id] as const,
  room: (course: string) => ['room', course] as const,
  people: (course: string) => ['people', course] as const,
  lecturePage: (id: string) => ['lecture-page', id] as const,
  registers: (course: string) => ['registers', course] as const,
  hallCode: (lecture: string) => ['hall-code', lecture] as const,
  register: (lecture: string) => ['register', lecture] as const,
  chat: (lecture: string) => ['chat', lecture] as const,
  lost: (lecture: string) => ['lost', lecture] as const,
  lostOf: (recording: string) => ['lost-of', recording] as const,
  notes: (recording: string) => ['notes', recording] as const,
  whoElse: (lecture: string) => ['who-else', lecture] as const,
  toAll: (lecture: string) => ['to-all', lecture] as const,
  askedIn: (recording: string) => ['asked-in', recording] as const,
  prepared: (course: string) => ['prepared', course] as const,
  saidIn: (recording: string) => ['said-in', recording] as const,
  questions: (course: string) => ['questions', course] as const,
  doorway: (lecture: string) => ['doorway', lecture] as const,
  dates: ['dates'] as const,
  college: ['college'] as const,
  halls: ['halls'] as const,
  runSheet: (day: string) => ['run-sheet', day] as const,
  board: ['board'] as const,
  files: ['files'] as const,
  lecture: (id: string) => ['lecture', id] as const,
  recording: (id: string) => ['recording', id] as const,
  strip: (id: string) => ['strip', id] as const,
  versions: (id: string) => ['recording', id, 'versions'] as const,
  twins: (id: string) => ['recording', id, 'twins'] as const,
  lecturesAfter: (id: string) => ['recording', id, 'lectures-after'] as const,
  captions: (id: string) => ['words', id] as const,
  captionPage: (id: string, language: string) => ['words', id, 'page', language] as const,
  proposed: (id: string, language: string) => ['words', id, 'proposed', language] as const,
  found: (id: string, language: string, ...finding: object[]) => ['words', id, 'found', language, ...finding] as const,
  chapters: (id: string) => ['words', id, 'chapters'] as const,
  hits: (id: string, query: string) => ['words', id, 'hits', query] as const,
  courseWords: (course: string) => ['course', course, 'words'] as const,
  titles: (course: string, pattern: string) => ['titles', course, pattern] as const,
  bin: ['bin'] as const,
  carry: (course: string) => ['carry', course] as const,
  planned: ['planned'] as const,
  all: (wanted: object) => ['all', wanted] as const,
  /** Of a recording in a course, and of it in whichever. */
  audience: (course: string, id: string) => ['audience', id, course] as const,
  audiences: (id: string) => ['audience', id] as const,
  rule: (course: string, recording = '') => ['rule', course, recording] as const,
  ruleHistory: (course: string, recording = '') => ['rule', course, recording, 'history'] as const,
  /** Of all that a course shows, and of one of it. */
  playlists: (course: string) => ['playlist', course] as const,
  playlist: (course: string, list = '') => ['playlist', course, list] as const,
  share: (what: { course: string; recording?: string; list?: string }) => ['share', what] as const,
  embedSites: ['embed-sites'] as const,
  oneList: (course: string, list?: string) => ['catch-up', 'list', course, list ?? ''] as const,
  offered: (course: string) => ['playlist', course, 'offered'] as const,
  addable: (course: string, list = '', from: string) => ['playlist', course, list, 'from', from] as const,
  catchUp: ['catch-up'] as const,
  caughtUp: (course: string, recording = '') => ['caught-up', course, recording] as const,
  search: (words: string) => ['search', words] as const,
  news: ['news'] as const,
  courseNews: (course: string) => ['course-news', course] as const,
  astray: ['astray'] as const,
  watch: (id: string) => ['watch', id] as const,
  copy: (id: string, edition: string, kind: string) => ['copy', id, edition, kind] as const,
  shuts: (course: string) => ['shut-outs', course] as const,
  openings: (id: string) => ['openings', id] as const,
  linked: (opening: string) => ['linked', opening] as const,
  watchCaptions: (id: string, language: string) => ['watch-captions', id, language] as const,
}

export const retry = (count: number, error: Error) =>
  error instanceof Problem && (error.status === 0 || error.status >= 500) && count < 5

export function get<T>(key: MaybeRefOrGetter<readonly unknown[]>, queryFn: () => Promise<T>, more: object = {}) {
  return useQuery<T>({ queryKey: computed(() => toValue(key)), queryFn, retry, ...more })
}

export type ID = MaybeRefOrGetter<string>

export const of = {
  lecture: (id: ID) => ({ params: { path: { lecture: toValue(id) } } }),
  recording: (id: ID) => ({ params: { path: { recording: toValue(id) } } }),
  course: (id: ID) => ({ params: { path: { course: toValue(id) } } }),
}

export const fileHere = (print: string) => ask((c) => c.GET('/api/files/{print}', { params: { path: { print } } }))

export const useBoard = () => get(keys.board, () => ask((c) => c.GET('/api/board')))

export const useLecture = (id: ID) =>
  get(
    () => keys.lecture(toValue(id)),
    () => ask((c) => c.GET('/api/lectures/{lecture}', of.lecture(id))),
    { enabled: computed(() => toValue(id) !== '') },
  )

export const useAudience = (course: ID, id: ID) =>
  get(
    () => keys.audience(toValue(course), toValue(id)),
    () =>
      ask((c) =>
        c.GET('/api/courses/{course}/recordings/{recording}/audience', {
          params: { path: { course: toValue(course), recording: toValue(id) } },
        }),
      ),
  )

/** tellClosed has those told who teach that one stands before the closed door of a recording. */
export const tellClosed = (recording: string) =>
  ask((c) => c.POST('/api/watch/{recording}/tell', { params: { path: { recording } } }))

/** useWatch is a recording as it is watched; now says what plays, so that what is published meanwhile goes on there. */
export const useWatch = (id: ID, now: () => { edition?: string; at?: number; uncut?: boolean }) =>
  get(
    () => keys.watch(toValue(id)),
    () => ask((c) => c.GET('/api/watch/{recording}', { params: { path: { recording: toValue(id) }, query: now() } })),
    // What plays must not be pulled from under the one who watches: it is asked for again when they come back.
    // Of a lecture that has just begun nothing can be watched yet, but will in a moment.
    {
      staleTime: Infinity,
      gcTime: 0,
      refetchOnWindowFocus: false,
      refetchInterval: (q: { state: { data?: unknown; error: unknown } }) =>
        !q.state.data && q.state.error instanceof Problem && q.state.error.kind === 'recording.not_ready'
          ? 1500
          : false,
    },
  )

export const freeRoom = () => ask((c) => c.GET('/api/storage'))

export const sendMarker = (track: string, marker: string, body: Schemas['Marker']) =>
  ask((c) => c.PUT('/api/tracks/{track}/markers/{marker}', { params: { path: { track, marker } }, body }))

export const sayPaused = (track: string, on: boolean) =>
  ask((c) => c.PUT('/api/tracks/{track}/paused', { params: { path: { track } }, body: { on } }))

export const seeNotice = (lecture: string) =>
  ask((c) => c.POST('/api/lectures/{lecture}/seen-notice', of.lecture(lecture)))

export const sayPresent = (lecture: string, inHall: boolean) =>
  ask((c) => c.PUT('/api/lectures/{lecture}/present', { ...of.lecture(lecture), body: { in_hall: inHall } }))

export const useCollege = () => get(keys.college, () => ask((c) => c.GET('/api/college')))

export const setCollege = (body: Schemas['College']) => ask((c) => c.PUT('/api/college', { body }))

export const endCapture = (recording: string) =>
  ask((c) => c.POST('/api/recordings/{recording}/end', of.recording(recording)))

/** What of a recording is taken away as one file. */
export type CopyKind = Exclude<Schemas['TakeLine']['kind'], 'text'>

const ofCopy = (recording: string, kind: CopyKind) => ({ params: { path: { recording, kind } } })

/** useCopy is how far the copy of a recording is; while it is made it is asked again. */
export const useCopy = (id: ID, edition: ID, kind: CopyKind) =>
  get(
    () => keys.copy(toValue(id), toValue(edition), kind),
    () => ask((c) => c.GET('/api/watch/{recording}/copies/{kind}', ofCopy(toValue(id), kind))),
    {
      refetchInterval: (q: { state: { data?: Schemas['Copy'] } }) => (q.state.data?.state === 'making' ? 1000 : false),
    },
  )

export const askCopy = (id: string, kind: CopyKind) =>
  ask((c) => c.POST('/api/watch/{recording}/copies/{kind}', ofCopy(id, kind)))
