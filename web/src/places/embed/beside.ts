import { useQueryClient } from '@tanstack/vue-query'
import { useBroadcastChannel, useEventListener } from '@vueuse/core'
import { ref, watch } from 'vue'
import { enterFrame } from '../../api/embed'

/** What a page beside a frame tells it once someone has signed in there. */
export interface Told {
  lateLanternKey: string
}

/**
 * useBeside opens a page beside a frame in which one signs in, and begins a session here with what it tells. The site
 * around the frame hears nothing of it: both pages are of this origin, and neither takes a word of another.
 */
export function useBeside() {
  const client = useQueryClient()
  const state = ref<'' | 'beside' | 'refused'>('')
  const fault = ref<unknown>()
  /** The other frames of the same page: the session that one begins is theirs as well. */
  const others = useBroadcastChannel<'in', 'in'>({ name: 'late-lantern-frame' })

  function open() {
    fault.value = undefined
    state.value = window.open('/embed/enter', 'late-lantern', 'popup,width=520,height=720') ? 'beside' : 'refused'
  }

  async function enter() {
    state.value = ''
    await client.resetQueries()
  }

  async function hear(e: MessageEvent<Partial<Told> | null>) {
    const key = e.origin === window.location.origin ? e.data?.lateLanternKey : undefined
    if (typeof key !== 'string') return
    try {
      await enterFrame(key)
      others.post('in')
      await enter()
    } catch (problem) {
      fault.value = problem
    }
  }
  useEventListener(window, 'message', (e: MessageEvent<Partial<Told> | null>) => void hear(e))
  watch(others.data, (word) => word === 'in' && void enter())

  return { open, state, fault }
}
