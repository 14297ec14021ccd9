/**
 * Notices that the stop was forgotten: the planned end is past and nobody speaks, or one who records alone has long
 * been silent. It asks, and stops by itself after a visible countdown.
 */
import { onScopeDispose, ref } from 'vue'
import { collegeNow } from '../../parts/clock'

/** How long it must be silent, how long it counts down, and how long it leaves one in peace. In milliseconds. */
const silentFor = 60_000
const silentAlone = 5 * 60_000
const countdown = 60_000
const peace = 10 * 60_000

export function useForgottenStop(f: {
  /** The planned end, in milliseconds since 1970; undefined for who records alone, which has none. */
  ends: () => number | undefined
  running: () => boolean
  silent: () => number
  stop: () => void
}) {
  /** Seconds until it stops by itself; undefined while it does not ask. */
  const left = ref<number>()
  let deadline = 0
  let quiet = 0

  function look() {
    const now = collegeNow()
    const ends = f.ends()
    const over = ends === undefined ? f.silent() > silentAlone : now > ends && f.silent() > silentFor
    const forgotten = f.running() && over && now > quiet
    if (!forgotten) {
      left.value = undefined
      return
    }
    if (left.value === undefined) deadline = now + countdown
    left.value = Math.max(0, Math.ceil((deadline - now) / 1000))
    if (now >= deadline) {
      left.value = undefined
      f.stop()
    }
  }

  const timer = window.setInterval(look, 500)
  onScopeDispose(() => window.clearInterval(timer))
  return {
    left,
    goOn: () => {
      quiet = collegeNow() + peace
      left.value = undefined
    },
  }
}
