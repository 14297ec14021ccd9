/** What is captured: a microphone and the computer's own sound, a screen and a camera. */
import { computed, onScopeDispose, reactive, ref, shallowRef, watch } from 'vue'
import { canFrame, Feed, type Frame } from './feed'
import { Mixer, silence, type Level } from './level'

export type Picture = 'screen' | 'camera' | 'both' | 'none'
export type Eye = 'screen' | 'camera'

/**
 * Why a source could not be opened; 'ended' when it was and is no more, 'taken' while it gives nothing, as when
 * another program has it.
 */
export type SourceFault = '' | 'denied' | 'missing' | 'busy' | 'ended' | 'taken'

function faultOf(e: unknown): SourceFault {
  const name = e instanceof DOMException ? e.name : ''
  if (name === 'NotAllowedError' || name === 'SecurityError') return 'denied'
  if (name === 'NotFoundError' || name === 'OverconstrainedError') return 'missing'
  return 'busy'
}

const remembered = 'late-lantern-desk'

/** What is remembered on a computer. */
interface Choice {
  microphone?: string
  camera?: string
  picture?: Picture
  strengths?: { microphone: number; computer: number }
  frame?: Frame
}

function recall(): Choice {
  try {
    return JSON.parse(localStorage.getItem(remembered) ?? '{}') as Choice
  } catch {
    return {}
  }
}

const stop = (s: MediaStream | undefined) => s?.getTracks().forEach((t) => t.stop())

export function useSources() {
  const before = recall()
  const mixer = new Mixer()
  const feeds: Record<Eye, Feed> = { screen: new Feed(), camera: new Feed() }
  const sound = shallowRef<MediaStream>()
  const computer = shallowRef<MediaStream>()
  const seen = { screen: shallowRef<MediaStream>(), camera: shallowRef<MediaStream>() }
  const preview = { screen: shallowRef<MediaStream>(), camera: shallowRef<MediaStream>() }
  const faults = reactive<Record<Eye | 'sound', SourceFault>>({ screen: '', camera: '', sound: '' })
  const microphones = ref<MediaDeviceInfo[]>([])
  const cameras = ref<MediaDeviceInfo[]>([])
  const microphone = ref('')
  const camera = ref('')
  const levels = reactive<{ microphone: Level; computer: Level }>({ microphone: silence, computer: silence })
  const strengths = reactive(before.strengths ?? { microphone: 1, computer: 1 })
  const frame = ref<Frame | undefined>(before.frame)
  /** The pictures of the capture: one that is lost can be opened again. */
  const inCapture = ref<Eye[]>([])
  /** A capture of one picture takes it from either: the feed goes on, and what feeds it changes. */
  const feedOf = (eye: Eye): Feed => feeds[inCapture.value.length === 1 ? inCapture.value[0]! : eye]
  /** Nothing that the microphone hears is captured, while all else goes on. */
  const muted = ref(false)
  /** The last choice: whoever showed a screen the last time is expected to show one again. */
  const expected = ref(before.picture ?? 'none')

  const kind = computed<Picture>(() => {
    if (seen.screen.value) return seen.camera.value ? 'both' : 'screen'
    return seen.camera.value ? 'camera' : 'none'
  })

  function remember() {
    if (kind.value !== 'none') expected.value = kind.value
    const choice: Choice = {
      microphone: microphone.value,
      camera: camera.value,
      picture: expected.value,
      strengths: { ...strengths },
      frame: frame.value,
    }
    localStorage.setItem(remembered, JSON.stringify(choice))
  }

  watch(
    [strengths, muted] as const,
    ([s]) => {
      mixer.microphone.strength = muted.value ? 0 : s.microphone
      mixer.computer.strength = s.computer
      remember()
    },
    { immediate: true, deep: true },
  )
  /** While the frame is drawn, all of the screen is seen. */
  const framing = ref(false)
  function applyFrame() {
    feeds.screen.frame = framing.value ? undefined : frame.value
    feeds.screen.fix()
  }
  applyFrame()
  watch([frame, framing], () => {
    applyFrame()
    remember()
  })

  async function devices() {
    const all = await navigator.mediaDevices.enumerateDevices()
    microphones.value = all.filter((d) => d.kind === 'audioinput')
    cameras.value = all.filter((d) => d.kind === 'videoinput')
  }

  /** A device that another program takes stays open here, and gives nothing until it comes back. */
  function watchTaken(of: Eye | 'sound', track: MediaStreamTrack | undefined, current: () => boolean) {
    for (const [event, fault] of [
      ['mute', 'taken'],
      ['unmute', ''],
    ] as const)
      // prettier-ignore
      track?.addEventListener(event, () => {
        if (current()) faults[of] = fault
      })
  }

  async function openMicrophone(id = ''): Promise<void> {
    faults.sound = ''
    try {
      const s = await navigator.mediaDevices.getUserMedia({
        audio: { deviceId: id ? { exact: id } : undefined, echoCancellation: false, autoGainControl: true },
      })
      stop(sound.value)
      sound.value = s
      mixer.microphone.from(s)
      mixer.wake()
      microphone.value = s.getAudioTracks()[0]?.getSettings().deviceId ?? ''
      await devices()
      watchTaken('sound', s.getAudioTracks()[0], () => sound.value === s)
      s.getAudioTracks()[0]?.addEventListener('ended', () => {
        if (sound.value !== s) return
        sound.value = undefined
        mixer.microphone.from(undefined)
        faults.sound = 'ended'
      })
      remember()
    } catch (e) {
      if (id) return openMicrophone() // a remembered one may be gone
      faults.sound = faultOf(e)
    }
  }

  function show(eye: Eye, s: MediaStream | undefined) {
    stop(seen[eye].value)
    seen[eye].value = s
    faults[eye] = ''
    const track = s?.getVideoTracks()[0]
    const feed = feedOf(eye)
    const other = seen[eye === 'screen' ? 'camera' : 'screen'].value
    if (s || inCapture.value.length !== 1 || !other) feed.from(track)
    // What is captured is what is seen: the feed, not its source.
    const given = feed.track
    if (s) feed.frame = eye === 'screen' && !framing.value ? frame.value : undefined
    preview[eye].value = s && given ? new MediaStream([given]) : undefined
    if (eye === 'screen') {
      computer.value = s && s.getAudioTracks().length > 0 ? s : undefined
      mixer.computer.from(computer.value)
      mixer.wake()
    }
    watchTaken(eye, track, () => seen[eye].value === s)
    track?.addEventListener('ended', () => {
      if (seen[eye].value !== s) return
      show(eye, undefined)
      faults[eye] = 'ended'
    })
    remember()
  }

  async function openCamera(id = ''): Promise<void> {
    try {
      const video = { deviceId: id ? { exact: id } : undefined, width: 1280, height: 720, frameRate: 25 }
      const s = await navigator.mediaDevices.getUserMedia({ video })
      camera.value = s.getVideoTracks()[0]?.getSettings().deviceId ?? ''
      show('camera', s)
      await devices()
    } catch (e) {
      if (id) return openCamera()
      faults.camera = faultOf(e)
    }
  }

  async function openScreen(): Promise<void> {
    try {
      show('screen', await navigator.mediaDevices.getDisplayMedia({ video: { frameRate: 20 }, audio: true }))
    } catch (e) {
      // Someone who changed their mind in the browser's own dialog has lost nothing.
      faults.screen = faultOf(e)
    }
  }

  /**
   * exchange takes the one picture of a capture from another source, which is opened first: nothing is lost when it
   * cannot be.
   */
  async function exchange(eye: Eye): Promise<void> {
    const other: Eye = eye === 'screen' ? 'camera' : 'screen'
    const was = seen[eye].value
    if (eye === 'screen') await openScreen()
    else await openCamera(camera.value || before.camera)
    if (seen[eye].value && seen[eye].value !== was) show(other, undefined)
  }

  /** pick opens what a choice needs and closes what it does not. */
  async function pick(p: Picture): Promise<void> {
    if (inCapture.value.length === 1 && (p === 'screen' || p === 'camera')) return exchange(p)
    const wants = { screen: p === 'screen' || p === 'both', camera: p === 'camera' || p === 'both' }
    if (!wants.camera) show('camera', undefined)
    if (!wants.screen) show('screen', undefined)
    if (wants.screen && (!seen.screen.value || p === 'screen')) await openScreen()
    if (wants.camera && !seen.camera.value) await openCamera(camera.value || before.camera)
    if (p === 'none') expected.value = 'none'
    remember()
  }

  /** begin opens what was used on this computer the last time. What is shown must be chosen anew. */
  async function begin(): Promise<void> {
    await openMicrophone(before.microphone)
    if (before.picture === 'camera' || before.picture === 'both') await openCamera(before.camera)
  }

  const timer = window.setInterval(() => {
    levels.microphone = mixer.microphone.hear()
    levels.computer = mixer.computer.hear()
  }, 100)
  const listen = () => void devices()
  navigator.mediaDevices?.addEventListener('devicechange', listen)
  onScopeDispose(() => {
    window.clearInterval(timer)
    navigator.mediaDevices?.removeEventListener('devicechange', listen)
    for (const eye of ['screen', 'camera'] as const) {
      stop(seen[eye].value)
      feeds[eye].close()
    }
    stop(sound.value)
    mixer.close()
  })

  /** over is for when the capture has ended: each picture has its own feed again. */
  function over() {
    const one = inCapture.value.length === 1 ? inCapture.value[0]! : undefined
    inCapture.value = []
    if (!one) return
    // What was exchanged goes back to its own feed.
    for (const eye of ['screen', 'camera'] as const) {
      const s = seen[eye].value
      feeds[eye].from(s?.getVideoTracks()[0])
      const given = feeds[eye].track
      preview[eye].value = s && given ? new MediaStream([given]) : undefined
    }
    applyFrame()
  }

  /**
   * captured is what goes to the server: the first picture with all that is heard, and the
   * second picture beside it. A screen leads; the camera stands beside.
   */
  function captured(): { first: MediaStream; second: MediaStream | undefined } {
    framing.value = false
    applyFrame()
    const eyes = (['screen', 'camera'] as const).filter((e) => seen[e].value)
    inCapture.value = eyes
    const tracks = eyes.map((e) => {
      feeds[e].fix()
      return feeds[e].track
    })
    mixer.wake()
    // The mix is there even while nothing is heard, so that a microphone can be plugged in later.
    return {
      first: new MediaStream([...(tracks[0] ? [tracks[0]] : []), ...mixer.stream.getAudioTracks()]),
      second: tracks[1] ? new MediaStream([tracks[1]]) : undefined,
    }
  }

  return {
    sound, computer, seen, preview, kind, faults, microphones, cameras, microphone, camera, levels, strengths,
    frame, framing, expected, inCapture, muted, over,
    canFrame, openMicrophone, openCamera, openScreen, pick, begin, captured, mix: mixer.stream,
  } // prettier-ignore
}

export type Sources = ReturnType<typeof useSources>
