import { onScopeDispose, ref, watch } from 'vue'
import { sayPresent } from '../../api/queries'

/** How often whoever follows a lecture live is heard of, in milliseconds. */
const often = 15_000

/**
 * useFollowing says that someone follows a lecture live for as long as it plays here, or they sit in its hall: what has
 * to play is a clock that moves.
 */
export function useFollowing(lecture: () => string | undefined, at: () => number, refused: (e: unknown) => void) {
  /** Who sits in the hall is there without anything that plays. */
  const inHall = ref(false)
  let heardAt = 0

  function present() {
    const id = lecture()
    const moved = at() !== heardAt
    heardAt = at()
    if (id && (moved || inHall.value)) void sayPresent(id, inHall.value).catch(refused) // the next one will do
  }

  const heartbeat = window.setInterval(present, often)
  watch(inHall, present)
  onScopeDispose(() => window.clearInterval(heartbeat))
  return { inHall }
}
