/** What readers propose to say in lines of captions instead, and what those who teach make of it. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, toValue, type MaybeRefOrGetter } from 'vue'
import { ask, type Schemas } from './client'
import { get, keys } from './queries'

/** The captions that someone reads along: of an edition, in a language. */
export interface Reading {
  recording: string
  edition: string
  language: string
}

const at = (r: Reading) => ({
  path: { recording: r.recording },
  query: { edition: r.edition, language: r.language },
})

export const useProposed = (of: MaybeRefOrGetter<Reading>, on: () => boolean) =>
  get(
    () => keys.proposed(toValue(of).recording, toValue(of).language),
    () => ask((c) => c.GET('/api/watch/{recording}/proposed', { params: at(toValue(of)) })),
    { enabled: computed(on) },
  )

/** useProposing proposes a line, or takes back what one proposed; each gives one's own as they are then. */
export function useProposing(of: () => Reading) {
  const client = useQueryClient()
  const keep = (list: Schemas['ProposedLines']) => {
    client.setQueryData(keys.proposed(of().recording, of().language), list)
    return list
  }
  return {
    propose: (body: Schemas['ProposeInputBody']) =>
      ask((c) => c.POST('/api/watch/{recording}/proposed', { params: at(of()), body })).then(keep),
    withdraw: (proposal: string) => {
      const { path, query } = at(of())
      return ask((c) =>
        c.DELETE('/api/watch/{recording}/proposed/{proposal}', { params: { path: { ...path, proposal }, query } }),
      ).then(keep)
    },
  }
}
