import { useStorage } from '@vueuse/core'
import { computed } from 'vue'
import { lengthOf, type Stretch } from '../../parts/kept'

/** Less than this is not worth a choice, in milliseconds. */
const worth = 5000

/** useSilences goes over where nobody speaks, if someone wants that: this browser remembers. */
export function useSilences(silences: () => Stretch[], go: (to: number) => void, over: (s: Stretch) => void) {
  const skips = useStorage('late-lantern-silences', false)
  const saves = computed(() => lengthOf(silences()))
  const offered = computed(() => saves.value >= worth)

  /** pass goes on behind the silence that a moment of playing lies in. */
  function pass(at: number) {
    if (!skips.value || !offered.value) return
    const s = silences().find((x) => x.start <= at && at < x.end - 50)
    if (!s) return
    over({ start: at, end: s.end })
    go(s.end)
  }

  return { skips, saves, offered, pass }
}
