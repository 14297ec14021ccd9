/** What is asked and changed of all recordings that one teaches. */
import { toValue, type MaybeRefOrGetter } from 'vue'
import { ask, type Schemas } from './client'
import type { operations } from './schema'
import { get, keys } from './queries'

export type Wanted = NonNullable<operations['recordings']['parameters']['query']>
export type Row = Schemas['RecordingRow']
export type Course = Schemas['ListedCourse']

/** useAll are the recordings that are wanted; what was wanted before stays until they are here. */
export const useAll = (wanted: MaybeRefOrGetter<Wanted>) =>
  get(
    () => keys.all(toValue(wanted)),
    () => ask((c) => c.GET('/api/recordings', { params: { query: toValue(wanted) } })),
    // Of thousands of lines none is watched by itself.
    { placeholderData: (before: unknown) => before, shallow: true },
  )

/** setBinned puts recordings into the bin, or brings them back: all, or none. */
export const setBinned = (recordings: string[], binned: boolean) =>
  ask((c) => c.PUT('/api/bin', { body: { recordings, binned } }))
