import Hls from 'hls.js'
import { onScopeDispose, ref, toValue, type MaybeRefOrGetter, type Ref } from 'vue'
import type { Size } from './size'

/** What a player that waits is waiting for. */
export type WaitsFor = 'list' | 'first' | 'line' | 'live' | 'server'

/** What the line carried last, in bits a second, on this page; 0 while it is unknown. */
let line = 0

/**
 * useStream brings what stands at an address into a video, in the size that is chosen then. load begins
 * at a moment in milliseconds, or where it is live; latest is the moment in seconds that is live.
 */
export function useStream(
  video: Ref<HTMLVideoElement | undefined>,
  live: MaybeRefOrGetter<boolean>,
  size: MaybeRefOrGetter<Size>,
  /** What stood at the address is no longer there for whoever watches. */
  gone: () => void = () => undefined,
) {
  const fault = ref(false)
  const waitsFor = ref<WaitsFor>('list')
  let hls: Hls | undefined
  let tries = 0
  /** When something last came, and how long it may take until the next thing does. */
  let heard = 0
  let patience = 20_000
  let loaded: { address: string; from: number | undefined } = { address: '', from: undefined }

  function load(address: string, from: number | undefined) {
    loaded = { address, from }
    heard = performance.now()
    hls?.destroy()
    hls = undefined
    fault.value = false
    waitsFor.value = 'list'
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
      // The levels are sorted, the smallest first: it is soonest there, and tells how fast the line is.
      ...(line > 0 ? { abrEwmaDefaultEstimate: line } : { startLevel: 0 }),
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
      // Of a lecture that has just begun there is nothing yet; but whoever was sent out, or comes too late, is told so.
      if (data.response?.code === 404) gone()
      if (data.type === Hls.ErrorTypes.NETWORK_ERROR) waitsFor.value = 'server'
      if (!data.fatal) return
      if (data.type === Hls.ErrorTypes.MEDIA_ERROR && tries++ < 3) hls?.recoverMediaError()
      else if (data.type === Hls.ErrorTypes.NETWORK_ERROR && tries++ < 10)
        window.setTimeout(() => (hls?.levels.length ? hls.startLoad() : hls?.loadSource(address)), 1000)
      else fault.value = true
    })
    hls.on(Hls.Events.MANIFEST_PARSED, (_, { levels }) => {
      const chosen = toValue(size)
      if (hls && chosen !== 'line') hls.loadLevel = chosen === 'small' ? 0 : levels.length - 1
    })
    hls.on(Hls.Events.FRAG_LOADING, () => {
      if (waitsFor.value === 'list') waitsFor.value = 'first'
    })
    hls.on(Hls.Events.FRAG_BUFFERED, () => {
      tries = 0
      line = hls?.bandwidthEstimate ?? 0
      waitsFor.value = toValue(live) ? 'live' : 'line'
    })
    const signs = [Hls.Events.FRAG_LOADING, Hls.Events.FRAG_LOADED, Hls.Events.FRAG_BUFFERED, Hls.Events.ERROR]
    // Of a lecture under way it is enough to know that there is no more yet.
    if (toValue(live)) signs.push(Hls.Events.LEVEL_LOADED)
    for (const sign of signs) hls.on(sign, () => (heard = performance.now()))
    hls.loadSource(address)
    hls.attachMedia(v)
  }

  /** look begins anew where someone waits, nothing comes, and nothing complains; each time it takes longer to. */
  function look() {
    const v = video.value
    const waits = hls && v && !v.paused && v.readyState < HTMLMediaElement.HAVE_FUTURE_DATA && !fault.value
    if (!waits) heard = performance.now()
    else if (performance.now() - heard > patience) {
      patience *= 2
      v.addEventListener('canplay', () => void v.play().catch(() => undefined), { once: true })
      load(loaded.address, v.readyState > 0 ? v.currentTime * 1000 : loaded.from)
    }
  }

  const timer = window.setInterval(look, 1000)
  onScopeDispose(() => {
    window.clearInterval(timer)
    hls?.destroy()
  })
  return { load, fault, waitsFor, latest: () => hls?.liveSyncPosition }
}
