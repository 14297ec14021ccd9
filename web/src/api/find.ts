import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import { ask } from './client'
import { get, keys } from './queries'

/** find is what answers the words, the best first, of what who asks may know. */
export const find = (words: string) => ask((c) => c.GET('/api/find', { params: { query: { words } } }))

/** useSearch are the moments at which words are said or shown. */
export const useSearch = (words: MaybeRefOrGetter<string>, more: object = {}) =>
  get(
    () => keys.search(toValue(words)),
    () => ask((c) => c.GET('/api/search', { params: { query: { words: toValue(words) } } })),
    { enabled: computed(() => toValue(words).length > 1), ...more },
  )
