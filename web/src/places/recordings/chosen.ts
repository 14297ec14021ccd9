/** Which recordings of the table are chosen, to do the same to all of them. */
import { computed, ref, type Ref } from 'vue'
import type { Row } from '../../api/all'

/** As many as one step takes. */
export const most = 200

/** useChosen chooses among the rows as they are shown; what is shown no more stays chosen. */
export function useChosen(rows: Ref<Row[]>) {
  const chosen = ref(new Map<string, Row>())
  /** From where a range goes. */
  let from = ''
  const shown = computed(() => new Set(rows.value.map((r) => r.recording_id)))

  function put(list: Row[], on: boolean) {
    const next = new Map(chosen.value)
    for (const r of list) {
      if (!on) next.delete(r.recording_id)
      else if (next.size < most && r.state !== 'capturing') next.set(r.recording_id, r)
    }
    chosen.value = next
  }

  /** one chooses a row, or no more; as a range, all from the one before to it. */
  function one(r: Row, on: boolean, range: boolean) {
    const [a, b] = [from, r.recording_id].map((id) => rows.value.findIndex((x) => x.recording_id === id)) as [
      number,
      number,
    ]
    put(range && a >= 0 ? rows.value.slice(Math.min(a, b), Math.max(a, b) + 1) : [r], on)
    from = r.recording_id
  }

  return {
    /** As they are now, of those that are shown; of others, as they were. */
    list: computed(() => {
      const now = new Map(rows.value.map((r) => [r.recording_id, r]))
      return [...chosen.value.values()].map((r) => now.get(r.recording_id) ?? r)
    }),
    full: computed(() => chosen.value.size >= most),
    hidden: computed(() => [...chosen.value.keys()].filter((id) => !shown.value.has(id)).length),
    has: (r: Row) => chosen.value.has(r.recording_id),
    one,
    all: (on: boolean) => put(rows.value, on),
    none: () => (chosen.value = new Map()),
  }
}

export type Chosen = ReturnType<typeof useChosen>
