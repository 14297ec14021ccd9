import Hls from 'hls.js'
import { onScopeDispose, ref, toValue, watch, type MaybeRefOrGetter, type Ref } from 'vue'
import type { Size } from './size'

/**
 * useStream brings what stands at an address into a video, in the size that is chosen. load begins
 * at a moment in milliseconds, or where it is live; latest is the moment in seconds that is live.
 */
export function useStream(
  video: Ref<HTMLVideoElement | undefined>,
  live: MaybeRefOrGetter<boolean>,
  size: MaybeRefOrGetter<Size>,
) {
  const fault = ref(false)
  let hls: Hls | undefined
  let tries = 0

  function load(address: string, from: number | undefined) {
    hls?.destroy()
    hls = undefined
    fault.value = false
    const v = video.value
    if (!v || !address) return
    if (!Hls.isSupported()) {
      v.src = address
      return
    }
    hls = new Hls({
      // Two groups of pictures: less, and it would stop to wait for the next again and again.
      liveSyncDuration: 4,
      liveMaxLatencyDuration: Infinity,
      startPosition: from === undefined ? -1 : from / 1000,
      maxBufferLength: 30,
      backBufferLength: 90,
      // A lecture that has just begun has no segment yet, so its playlist is asked for again.
      manifestLoadPolicy: {
        default: {
          maxTimeToFirstByteMs: 10_000,
          maxLoadTimeMs: 20_000,
          timeoutRetry: { maxNumRetry: 4, retryDelayMs: 500, maxRetryDelayMs: 2000 },
          errorRetry: {
            maxNumRetry: toValue(live) ? 30 : 6,
            retryDelayMs: 500,
            maxRetryDelayMs: 2000,
            shouldRetry: (policy, count) => count < (policy?.maxNumRetry ?? 0),
          },
        },
      },
    })
    hls.on(Hls.Events.ERROR, (_, data) => {
      if (!data.fatal) return
      if (data.type === Hls.ErrorTypes.MEDIA_ERROR && tries++ < 3) hls?.recoverMediaError()
      else if (data.type === Hls.ErrorTypes.NETWORK_ERROR && tries++ < 10)
        window.setTimeout(() => hls?.startLoad(), 1000)
      else fault.value = true
    })
    hls.on(Hls.Events.MANIFEST_PARSED, apply)
    hls.on(Hls.Events.FRAG_BUFFERED, () => (tries = 0))
    hls.loadSource(address)
    hls.attachMedia(v)
  }

  /** The levels are sorted, the smallest first. */
  function apply() {
    const chosen = toValue(size)
    if (hls) hls.nextLevel = chosen === 'small' ? 0 : chosen === 'large' ? hls.levels.length - 1 : -1
  }

  watch(() => toValue(size), apply, { flush: 'sync' })
  onScopeDispose(() => hls?.destroy())
  return { load, fault, latest: () => hls?.liveSyncPosition }
}
