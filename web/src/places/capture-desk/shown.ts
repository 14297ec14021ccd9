/** What is seen: a screen and a camera, each through a feed that outlives its source. */
import { computed, onScopeDispose, ref, shallowRef, watch } from 'vue'
import type { Picture } from './choice'
import { stop, watchTrack, type SourceFault } from './devices'
import { Feed, type Frame } from './feed'

export type Eye = 'screen' | 'camera'

const eyes = ['screen', 'camera'] as const
const otherThan = (eye: Eye): Eye => (eye === 'screen' ? 'camera' : 'screen')

/** useFrame is the frame to which the screen is cut; while it is drawn, all of the screen is seen. */
function useFrame(feed: Feed, first: Frame | undefined, remember: () => void) {
  const frame = ref<Frame | undefined>(first)
  const framing = ref(false)
  const now = () => (framing.value ? undefined : frame.value)
  function apply() {
    feed.frame = now()
    feed.fix()
  }
  apply()
  watch([frame, framing], () => {
    apply()
    remember()
  })
  return { frame, framing, apply, now }
}

/** useShown shows what a screen and a camera give. */
export function useShown(
  first: Frame | undefined,
  told: {
    fault: (of: Eye, f: SourceFault) => void
    screen: (s: MediaStream | undefined) => void
    remember: () => void
  },
) {
  const feeds: Record<Eye, Feed> = { screen: new Feed(), camera: new Feed() }
  const seen = { screen: shallowRef<MediaStream>(), camera: shallowRef<MediaStream>() }
  const preview = { screen: shallowRef<MediaStream>(), camera: shallowRef<MediaStream>() }
  const framed = useFrame(feeds.screen, first, told.remember)
  /** The pictures of the capture: one that is lost can be opened again. */
  const inCapture = ref<Eye[]>([])
  /** A capture of one picture takes it from either: the feed goes on, and what feeds it changes. */
  const feedOf = (eye: Eye): Feed => feeds[inCapture.value.length === 1 ? inCapture.value[0]! : eye]

  const kind = computed<Picture>(() => {
    if (seen.screen.value) return seen.camera.value ? 'both' : 'screen'
    return seen.camera.value ? 'camera' : 'none'
  })

  // What is captured is what is seen: the feed, not its source.
  function previewOf(eye: Eye, feed: Feed) {
    const given = feed.track
    preview[eye].value = seen[eye].value && given ? new MediaStream([given]) : undefined
  }

  function show(eye: Eye, s: MediaStream | undefined) {
    stop(seen[eye].value)
    seen[eye].value = s
    told.fault(eye, '')
    const track = s?.getVideoTracks()[0]
    const feed = feedOf(eye)
    if (s || inCapture.value.length !== 1 || !seen[otherThan(eye)].value) feed.from(track)
    if (s) feed.frame = eye === 'screen' ? framed.now() : undefined
    previewOf(eye, feed)
    if (eye === 'screen') told.screen(s)
    watchTrack(track, (fault) => {
      if (seen[eye].value !== s) return
      if (fault === 'ended') show(eye, undefined)
      told.fault(eye, fault)
    })
    told.remember()
  }

  /** over is for when the capture has ended: each picture has its own feed again. */
  function over() {
    const one = inCapture.value.length === 1
    inCapture.value = []
    if (!one) return
    // What was exchanged goes back to its own feed.
    for (const eye of eyes) {
      feeds[eye].from(seen[eye].value?.getVideoTracks()[0])
      previewOf(eye, feeds[eye])
    }
    framed.apply()
  }

  /** capturedTracks are the pictures that go to the server from now on. A screen leads; the camera stands beside. */
  function capturedTracks(): (MediaStreamTrack | undefined)[] {
    framed.framing.value = false
    framed.apply()
    inCapture.value = eyes.filter((e) => seen[e].value)
    return inCapture.value.map((e) => {
      feeds[e].fix()
      return feeds[e].track
    })
  }

  onScopeDispose(() => {
    for (const eye of eyes) {
      stop(seen[eye].value)
      feeds[eye].close()
    }
  })
  return { seen, preview, kind, inCapture, frame: framed.frame, framing: framed.framing, show, over, capturedTracks }
}
