import { computed, onScopeDispose, ref, type Ref } from 'vue'
import { jump, lengthOf, toKept, toSource, type Stretch } from './kept'

const allRates = [0.5, 0.75, 1, 1.25, 1.5, 1.75, 2, 2.5, 3]
/** Of what is live what went by can be made up for, at up to twice the speed until now. */
const mostLive = 2
/** So near to now one is with the others, in milliseconds: pictures come in groups. */
const withOthers = 1500

/**
 * usePlaying plays what is kept of what comes into a video, and knows where it stands: in `source` on the clock of what
 * plays, and in `at` on that of what is kept, both in milliseconds.
 */
export function usePlaying(
  video: Ref<HTMLVideoElement | undefined>,
  whole: {
    /** What is kept, when not all of it is; sorted. */
    kept: () => Stretch[] | undefined
    live: () => boolean
    /** The moment in seconds that is live. */
    latest: () => number | null | undefined
  },
  told: {
    time: (source: number, kept: number) => void
    rested: (kept: number) => void
    begun: () => void
    /** Someone goes elsewhere in it. */
    sought: () => void
  },
) {
  const playing = ref(false)
  const source = ref(0)
  const duration = ref(0)
  const rate = ref(1)
  /** How far behind now it is, of what is live, in milliseconds. */
  const behind = ref(0)
  const rates = computed(() => (whole.live() ? allRates.filter((r) => r <= mostLive) : allRates))
  const volume = ref(1)
  const kept = computed<Stretch[]>(() => whole.kept() ?? [{ start: 0, end: duration.value }])
  const length = computed(() => lengthOf(kept.value))
  const at = computed(() => Math.min(length.value, toKept(kept.value, source.value)))

  /** follow runs with every picture: what is struck is jumped over before it can be heard. */
  function follow() {
    const v = video.value
    if (!v) return
    source.value = v.currentTime * 1000
    duration.value = Number.isFinite(v.duration)
      ? v.duration * 1000
      : v.seekable.length > 0
        ? v.seekable.end(v.seekable.length - 1) * 1000
        : 0
    const chosen = whole.kept()
    if (!v.paused && chosen) {
      const to = jump(chosen, source.value + 15)
      const last = chosen[chosen.length - 1]
      if (to !== undefined && !v.seeking) v.currentTime = to / 1000
      else if (last && source.value >= last.end) v.pause()
    }
    const now = whole.live() ? whole.latest() : undefined
    behind.value = now ? Math.max(0, now * 1000 - source.value) : 0
    if (now && rate.value > 1 && behind.value < withOthers) setRate(1)
    told.time(source.value, at.value)
  }

  let request = 0
  const run = () => {
    follow()
    request = window.requestAnimationFrame(run)
  }

  function onPlay() {
    told.begun()
    playing.value = true
    window.cancelAnimationFrame(request)
    run()
  }

  function onPause() {
    playing.value = false
    window.cancelAnimationFrame(request)
    follow()
    told.rested(at.value)
  }

  /**
   * seek goes to a moment of the source. It is told at once, so that keys pressed quickly each begin where the one
   * before led.
   */
  function seek(ms: number) {
    told.sought()
    source.value = Math.max(0, ms)
    if (!video.value) return
    video.value.currentTime = source.value / 1000
    follow()
  }

  function seekKept(ms: number) {
    seek(toSource(kept.value, Math.min(Math.max(0, ms), Math.max(0, length.value - 100))))
  }

  async function toggle() {
    const v = video.value
    if (!v) return
    heard++ // whoever presses play hears more than a line
    if (!v.paused) return v.pause()
    if (at.value >= length.value - 100 && !whole.live()) seekKept(0)
    // What went by before somebody pressed play is not missed, but it is not now.
    if (whole.live() && v.played.length === 0) return toNow()
    await v.play().catch(() => undefined)
  }

  let heard = 0

  /** hear plays a second to each side of a moment of what is kept. */
  const hear = (kept: number) => hearOut(kept - 1000, kept + 1000)

  /** hearOut plays from one moment of what is kept to another. */
  async function hearOut(from: number, to: number) {
    const v = video.value
    if (!v) return
    const token = ++heard
    seekKept(Math.max(0, from))
    await v.play().catch(() => undefined)
    const end = Math.min(length.value, to)
    const watch = () => {
      if (token !== heard || v.paused) return
      if (at.value < end - 20) return void window.requestAnimationFrame(watch)
      v.pause()
      // Where pictures come late it ran on: it stands where it was asked to.
      seekKept(end)
    }
    watch()
  }

  function toNow() {
    const v = video.value
    const now = whole.latest()
    if (v && now) v.currentTime = now
    void v?.play().catch(() => undefined)
  }

  /** catchUp plays what is live at twice the speed until it is with the others, from a moment on or where it is. */
  function catchUp(from?: number) {
    if (from !== undefined) seekKept(from)
    setRate(mostLive)
    void video.value?.play().catch(() => undefined)
  }

  function setRate(r: number) {
    rate.value = r
    if (video.value) video.value.playbackRate = r
  }

  const faster = (by: number) =>
    setRate(rates.value[Math.min(rates.value.length - 1, Math.max(0, rates.value.indexOf(rate.value) + by))]!)

  function setVolume(v: number) {
    volume.value = v
    if (video.value) {
      video.value.volume = v
      video.value.muted = v === 0
    }
  }

  onScopeDispose(() => window.cancelAnimationFrame(request))

  return {
    playing,
    source,
    rate,
    rates,
    behind,
    volume,
    length,
    at,
    follow,
    onPlay,
    onPause,
    seek,
    seekKept,
    toggle,
    hear,
    hearOut,
    toNow,
    catchUp,
    setRate,
    faster,
    setVolume,
  }
}
