/** What is said in a lecture, and asked of its recording. */
import { useQueryClient, type QueryClient } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import { ask, type Schemas } from './client'
import { get, keys, of, type ID } from './queries'

export type ChatLine = Schemas['ChatLine']
export type ChatState = ChatLine['state']

const ofLine = (lecture: string, line: string) => ({ params: { path: { lecture, line } } })

/** merged is what was read before with what is new of it, in the order of what was said. */
function merged(before: ChatLine[], now: ChatLine[]): ChatLine[] {
  if (before.length === 0) return now
  const all = new Map(before.map((l) => [l.id, l]))
  for (const l of now) all.set(l.id, l)
  return [...all.values()].sort((a, b) => a.said_at.localeCompare(b.said_at) || a.id.localeCompare(b.id))
}

/** The chat of a lecture: only what is new of it is asked for. Whether it goes on changes by the clock. */
export function useChat(lecture: ID) {
  const client = useQueryClient()
  return get(
    () => keys.chat(toValue(lecture)),
    async () => {
      const key = keys.chat(toValue(lecture))
      const path = { lecture: toValue(lecture) }
      const after = client.getQueryData<Schemas['Chat']>(key)?.changes ?? 0
      const now = await ask((c) => c.GET('/api/lectures/{lecture}/chat', { params: { path, query: { after } } }))
      // What was heard meanwhile is no older.
      const before = client.getQueryData<Schemas['Chat']>(key)
      return {
        ...now,
        changes: Math.max(now.changes, before?.changes ?? 0),
        lines:
          before && before.changes > now.changes
            ? merged(now.lines, before.lines)
            : merged(before?.lines ?? [], now.lines),
      }
    },
    { refetchInterval: 60_000, structuralSharing: false },
  )
}

/** hearChat takes what is new from a notice, where that is all there is to know; else it has to be asked for. */
export function hearChat(client: QueryClient, n: Schemas['Event']): boolean {
  const key = keys.chat(n.lecture)
  const before = client.getQueryData<Schemas['Chat']>(key)
  const { chat } = n
  if (!before || !chat || before.changes < chat.from || before.way !== chat.way) return false
  if (chat.changes > before.changes)
    client.setQueryData(key, { ...before, changes: chat.changes, lines: merged(before.lines, chat.lines) })
  return true
}

export const say = (lecture: string, body: Schemas['SayInputBody']) =>
  ask((c) => c.POST('/api/lectures/{lecture}/chat', { ...of.lecture(lecture), body }))

export const askMoment = (recording: string, body: Schemas['AskInputBody']) =>
  ask((c) => c.POST('/api/watch/{recording}/questions', { ...of.recording(recording), body }))

export const withdrawLine = (lecture: string, line: string) =>
  ask((c) => c.DELETE('/api/lectures/{lecture}/chat/{line}', ofLine(lecture, line)))

export const bringBackLine = (lecture: string, line: string) =>
  ask((c) => c.POST('/api/lectures/{lecture}/chat/{line}/bring-back', ofLine(lecture, line)))

export const turnLine = (lecture: string, line: string, question: boolean) =>
  ask((c) => c.PUT('/api/lectures/{lecture}/chat/{line}/question', { ...ofLine(lecture, line), body: { question } }))

export const markLine = (lecture: string, line: string, body: Schemas['MarkInputBody']) =>
  ask((c) => c.PUT('/api/lectures/{lecture}/chat/{line}/state', { ...ofLine(lecture, line), body }))

export const takeLineDown = (lecture: string, line: string, down: boolean, why = '') =>
  ask((c) => c.PUT('/api/lectures/{lecture}/chat/{line}/down', { ...ofLine(lecture, line), body: { down, why } }))

export const setChatWay = (lecture: string, way: Schemas['Chat']['way']) =>
  ask((c) => c.PUT('/api/lectures/{lecture}/chat-way', { ...of.lecture(lecture), body: { way } }))

export const sayLost = (lecture: string) => ask((c) => c.POST('/api/lectures/{lecture}/lost', of.lecture(lecture)))

/** How many were lost when; asked again as minutes pass. */
export const useLost = (lecture: ID) =>
  get(
    () => keys.lost(toValue(lecture)),
    () => ask((c) => c.GET('/api/lectures/{lecture}/lost', of.lecture(lecture))),
    { refetchInterval: 60_000 },
  )

/** How many were lost when, along a recording, on its clock. */
export const useLostOf = (recording: ID) =>
  get(
    () => keys.lostOf(toValue(recording)),
    () => ask((c) => c.GET('/api/recordings/{recording}/lost', of.recording(recording))),
  )

/** What was said while a recording was captured, and asked of it since; of another edition it is asked anew. */
export const useSaidIn = (recording: ID, edition: ID, uncut: MaybeRefOrGetter<boolean>, wanted: () => boolean) =>
  get(
    () => [...keys.saidIn(toValue(recording)), toValue(edition), toValue(uncut)],
    () =>
      ask((c) =>
        c.GET('/api/watch/{recording}/chat', {
          params: { path: { recording: toValue(recording) }, query: { uncut: toValue(uncut) } },
        }),
      ),
    { enabled: computed(wanted) },
  )

export const useQuestions = (course: ID) =>
  get(
    () => keys.questions(toValue(course)),
    () => ask((c) => c.GET('/api/courses/{course}/questions', of.course(course))),
  )
