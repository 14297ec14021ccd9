/** Which recordings are wanted, and in which order, as the address of the table says. */
import { computed } from 'vue'
import { useRoute, useRouter, type LocationQuery } from 'vue-router'
import type { Wanted } from '../../api/all'

/** A column by which the table can be sorted. */
export type Column = NonNullable<Wanted['by']>

/** Columns that are read from their end first: the latest, the longest, the largest, what is seen by most. */
const fromEnd: Column[] = ['date', 'length', 'size', 'seen']

const yes = ['all_terms', 'untitled', 'uncaptioned', 'unseen', 'down'] as const
const numbers = ['week', 'longer_ms', 'shorter_ms', 'larger'] as const
const words = ['words', 'course', 'waits', 'light', 'by'] as const

function read(query: LocationQuery): Wanted {
  const text = (name: string) => (typeof query[name] === 'string' ? query[name] : '')
  const out: Record<string, unknown> = {}
  for (const name of words) if (text(name)) out[name] = text(name)
  for (const name of numbers) if (Number(text(name)) > 0) out[name] = Number(text(name))
  for (const name of yes) if (text(name)) out[name] = true
  // Nothing that was chosen: the latest first.
  return (out.by ? out : { ...out, by: 'date', down: true }) as Wanted
}

/** What was written says by its name what it is, and no more than was chosen. */
const written = (wanted: Wanted) =>
  Object.fromEntries(
    Object.entries(wanted)
      .filter(([, value]) => value)
      .map(([name, value]) => [name, value === true ? 'yes' : String(value)]),
  )

export function useWanted() {
  const route = useRoute()
  const router = useRouter()
  const wanted = computed(() => read(route.query))
  const set = (change: Wanted) => void router.replace({ query: written({ ...wanted.value, ...change }) })
  return {
    wanted,
    set,
    /** Something is kept out. */
    some: computed(() =>
      Object.keys(wanted.value).some((name) => name !== 'by' && name !== 'down' && name !== 'all_terms'),
    ),
    clear: () => void router.replace({ query: {} }),
    sorted: computed({
      get: () => ({ by: wanted.value.by as string, down: Boolean(wanted.value.down) }),
      set: ({ by, down }) =>
        set({ by: by as Column, down: by === wanted.value.by ? down : fromEnd.includes(by as Column) }),
    }),
  }
}
