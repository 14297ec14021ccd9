/** What is left to catch up. */
import { toValue, type MaybeRefOrGetter } from 'vue'
import { ask, type Schemas } from './client'
import { get, keys, of } from './queries'

/** In which order someone catches up: the oldest first, or what the next lecture builds on. */
export type Order = 'date' | 'next'

export const useCatchUp = (order: MaybeRefOrGetter<Order> = 'date', more: object = {}) =>
  get(
    () => [...keys.catchUp, toValue(order)],
    () => ask((c) => c.GET('/api/catch-up', { params: { query: { order: toValue(order) } } })),
    more,
  )

export const useCatchUpPlan = (minutes: MaybeRefOrGetter<number>, order: MaybeRefOrGetter<Order>, more: object = {}) =>
  get(
    () => [...keys.catchUp, 'plan', toValue(order), toValue(minutes)],
    () =>
      ask((c) =>
        c.GET('/api/catch-up/plan', { params: { query: { order: toValue(order), minutes: toValue(minutes) } } }),
      ),
    more,
  )

export const setKnown = (recording: string, known: boolean) =>
  ask((c) => c.PUT('/api/watch/{recording}/known', { ...of.recording(recording), body: { known } }))

/** tellPlayed says where someone is in a recording and what of it played; a page that is left says it too. */
export const tellPlayed = (recording: string, body: Schemas['PlaceInputBody'], keepalive = false) =>
  ask((c) => c.PUT('/api/watch/{recording}/place', { ...of.recording(recording), body, keepalive }))
