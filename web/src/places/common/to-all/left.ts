import { useIntervalFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import type { AskedQuestion } from '../../../api/toAll'
import { collegeNow } from '../../../parts/clock'

/** useLeft is how many seconds a question is open for; over is called once when they have passed. */
export function useLeft(question: () => AskedQuestion | undefined, over: () => void) {
  const now = ref(collegeNow())
  useIntervalFn(() => (now.value = collegeNow()), 250)
  const left = computed(() => {
    const q = question()
    return q?.open ? Math.max(0, Math.ceil((Date.parse(q.closes_at) - now.value) / 1000)) : 0
  })
  const open = computed(() => left.value > 0)
  watch(open, (is, was) => was && !is && over())
  return { left, open }
}

/** The time that is left, as 1:05. */
export const leftText = (s: number): string => `${Math.floor(s / 60)}:${String(s % 60).padStart(2, '0')}`
