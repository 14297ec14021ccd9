/** Notices that the stop was forgotten: the planned end is past and nobody speaks. It asks, and stops by itself after a visible countdown. */
import { onScopeDispose, ref } from 'vue'
import { clockNow } from '../../parts/clock'

/** How long it must be silent, how long it counts down, and how long it leaves one in peace. In milliseconds. */
const silentFor = 60_000
const countdown = 60_000
const peace = 10 * 60_000

export function useForgottenStop(f: {
  /** The planned end, in milliseconds since 1970. */
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
    const now = clockNow()
    const ends = f.ends()
    const forgotten = f.running() && ends !== undefined && now > ends && f.silent() > silentFor && now > quiet
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
      quiet = clockNow() + peace
      left.value = undefined
    },
  }
}
