import { ask } from './client'

/** find is what answers the words, the best first, of what who asks may know. */
export const find = (words: string) => ask((c) => c.GET('/api/find', { params: { query: { words } } }))
