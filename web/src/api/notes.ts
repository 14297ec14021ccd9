/** What one notes for oneself at moments of recordings. */
import { toValue, type MaybeRefOrGetter } from 'vue'
import { ask, type Schemas } from './client'
import { get, keys, of, type ID } from './queries'

export type Note = Schemas['NoteLine']

const ofNote = (recording: string, note: string) => ({ params: { path: { recording, note } } })

/** One's notes in what plays; of another edition they are asked for anew. */
export const useNotes = (recording: ID, edition: ID, uncut: MaybeRefOrGetter<boolean>) =>
  get(
    () => [...keys.notes(toValue(recording)), toValue(edition), toValue(uncut)],
    () =>
      ask((c) =>
        c.GET('/api/watch/{recording}/notes', {
          params: { ...of.recording(recording).params, query: { uncut: toValue(uncut) } },
        }),
      ),
  )

export const keepNote = (recording: string, note: string, body: Schemas['NoteInputBody']) =>
  ask((c) => c.PUT('/api/watch/{recording}/notes/{note}', { ...ofNote(recording, note), body }))

export const removeNote = (recording: string, note: string) =>
  ask((c) => c.DELETE('/api/watch/{recording}/notes/{note}', ofNote(recording, note)))
