/** How two pictures stand: one large beside the other, both alike, one in the corner of the other, or one alone. */
import { useStorage } from '@vueuse/core'
import { computed, ref } from 'vue'

export const arrangements = ['large', 'alike', 'inset', 'alone'] as const
export type Arrangement = (typeof arrangements)[number]

/**
 * useArranging holds how they stand, which is remembered in this browser, and which of them is the larger one: as the
 * recording says, unless someone changed places.
 */
export function useArranging(secondLeads: () => boolean) {
  const kept = useStorage<Arrangement>('late-lantern-pictures', 'large')
  const arrangement = computed({
    get: () => (arrangements.includes(kept.value) ? kept.value : 'large'),
    set: (a) => (kept.value = a),
  })
  const byHand = ref(false)
  const swapped = computed(() => secondLeads() !== byHand.value)
  const swap = () => (byHand.value = !byHand.value)
  /** next takes the arrangement that comes next, after the last the first. */
  const next = () => {
    arrangement.value = arrangements[(arrangements.indexOf(arrangement.value) + 1) % arrangements.length]!
  }
  return { arrangement, swapped, swap, next }
}
