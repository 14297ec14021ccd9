import { useIntervalFn } from '@vueuse/core'
import { computed, onScopeDispose, ref, watch } from 'vue'
import type { AskedQuestion } from '../../../api/toAll'
import { collegeNow } from '../../../parts/clock'

/** The clock of the server may be a little behind that of the page. */
const soon = 500
const later = 3500

/** useLeft is how many seconds a question is open for; over is called when they have passed, until it is closed. */
export function useLeft(question: () => AskedQuestion | undefined, over: () => void) {
  const now = ref(collegeNow())
  useIntervalFn(() => (now.value = collegeNow()), 250)
  const left = computed(() => {
    const q = question()
    return q?.open ? Math.max(0, Math.ceil((Date.parse(q.closes_at) - now.value) / 1000)) : 0
  })
  const open = computed(() => left.value > 0)
  let timers: number[] = []
  watch(open, (is, was) => {
    if (!was || is) return
    timers = [soon, later].map((ms) =>
      window.setTimeout(() => (ms === soon || question()?.open ? over() : undefined), ms),
    )
  })
  onScopeDispose(() => timers.forEach((n) => window.clearTimeout(n)))
  return { left, open }
}

/** The time that is left, as 1:05. */
export const leftText = (s: number): string => `${Math.floor(s / 60)}:${String(s % 60).padStart(2, '0')}`
