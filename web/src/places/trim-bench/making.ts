import { useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import { cuts, useBenchChange, type BenchChange } from '../../api/bench'
import { Problem } from '../../api/client'
import { keys } from '../../api/queries'
import { useForm } from '../../parts/form'

/**
 * useMaking makes changes on the bench, from the version of the cuts that is seen there. One that was not made, since
 * someone else made another meanwhile, is other; what else went wrong is fault. made is told what was made.
 */
export function useMaking(
  recording: () => string,
  version: () => string | undefined,
  made: (change: BenchChange) => void,
) {
  const client = useQueryClient()
  const change = useBenchChange(recording)
  const { problem: fault, act } = useForm()
  const other = ref<{ change: BenchChange; by: string; at: string }>()

  /** make makes a change to what is seen here, or with all the same, to whatever it is by now. */
  async function make(c: BenchChange, allTheSame = false): Promise<boolean> {
    other.value = undefined
    const from = cuts.includes(c.do) && !allTheSame ? version() : undefined
    if (await act(() => change.mutateAsync({ change: c, from }))) {
      made(c)
      if (!['title', 'description', 'light', 'darken'].includes(c.do))
        void client.invalidateQueries({ queryKey: keys.strip(recording()) })
      return true
    }
    const e = fault.value
    if (e instanceof Problem && e.kind === 'other_cut') {
      fault.value = undefined
      other.value = { change: c, by: String(e.values.by ?? ''), at: String(e.values.at ?? '') }
      void client.invalidateQueries({ queryKey: keys.recording(recording()) })
    }
    return false
  }
  return { make, other, fault, act, busy: change.isPending }
}
