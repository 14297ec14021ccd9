/** What is captured: a microphone and the computer's own sound, a screen and a camera. */
import { reactive, ref } from 'vue'
import { keepChoice, recall, type Picture } from './choice'
import { faultOf, useDevices, type SourceFault } from './devices'
import { canFrame } from './feed'
import { useHeard } from './heard'
import { useShown, type Eye } from './shown'

export type { Picture } from './choice'
export type { SourceFault } from './devices'
export type { Eye } from './shown'

export function useSources() {
  const before = recall()
  const faults = reactive<Record<Eye | 'sound', SourceFault>>({ screen: '', camera: '', sound: '' })
  const camera = ref('')
  /** The last choice: whoever showed a screen the last time is expected to show one again. */
  const expected = ref(before.picture ?? 'none')
  const devices = useDevices()
  const heard = useHeard(before.strengths, { fault: (f) => (faults.sound = f), look: devices.look, remember })
  const shown = useShown(before.frame, { fault: (of, f) => (faults[of] = f), screen: heard.hearComputer, remember })

  function remember() {
    if (shown.kind.value !== 'none') expected.value = shown.kind.value
    keepChoice({
      microphone: heard.microphone.value,
      camera: camera.value,
      picture: expected.value,
      strengths: { ...heard.strengths },
      frame: shown.frame.value,
    })
  }

  async function openCamera(id = ''): Promise<void> {
    try {
      const video = { deviceId: id ? { exact: id } : undefined, width: 1280, height: 720, frameRate: 25 }
      const s = await navigator.mediaDevices.getUserMedia({ video })
      camera.value = s.getVideoTracks()[0]?.getSettings().deviceId ?? ''
      shown.show('camera', s)
      await devices.look()
    } catch (e) {
      if (id) return openCamera()
      faults.camera = faultOf(e)
    }
  }

  async function openScreen(): Promise<void> {
    try {
      shown.show('screen', await navigator.mediaDevices.getDisplayMedia({ video: { frameRate: 20 }, audio: true }))
    } catch (e) {
      // Someone who changed their mind in the browser's own dialog has lost nothing.
      faults.screen = faultOf(e)
    }
  }

  const open = (eye: Eye) => (eye === 'screen' ? openScreen() : openCamera(camera.value || before.camera))

  /**
   * exchange takes the one picture of a capture from another source, which is opened first: nothing is lost when it
   * cannot be.
   */
  async function exchange(eye: Eye): Promise<void> {
    const was = shown.seen[eye].value
    await open(eye)
    const now = shown.seen[eye].value
    if (now && now !== was) shown.show(eye === 'screen' ? 'camera' : 'screen', undefined)
  }

  /** pick opens what a choice needs and closes what it does not. */
  async function pick(p: Picture): Promise<void> {
    if (shown.inCapture.value.length === 1 && (p === 'screen' || p === 'camera')) return exchange(p)
    const wants = { screen: p === 'screen' || p === 'both', camera: p === 'camera' || p === 'both' }
    if (!wants.camera) shown.show('camera', undefined)
    if (!wants.screen) shown.show('screen', undefined)
    if (wants.screen && (!shown.seen.screen.value || p === 'screen')) await openScreen()
    if (wants.camera && !shown.seen.camera.value) await open('camera')
    if (p === 'none') expected.value = 'none'
    remember()
  }

  /** begin opens what was used on this computer the last time. What is shown must be chosen anew. */
  async function begin(): Promise<void> {
    await heard.openMicrophone(before.microphone)
    if (before.picture === 'camera' || before.picture === 'both') await openCamera(before.camera)
  }

  /**
   * captured is what goes to the server: the first picture with all that is heard, and the second picture beside it.
   * The mix is there even while nothing is heard, so that a microphone can be plugged in later.
   */
  function captured(): { first: MediaStream; second: MediaStream | undefined } {
    const [first, second] = shown.capturedTracks()
    heard.mixer.wake()
    return {
      first: new MediaStream([...(first ? [first] : []), ...heard.mixer.stream.getAudioTracks()]),
      second: second ? new MediaStream([second]) : undefined,
    }
  }

  const { sound, computer, microphone, levels, strengths, muted, openMicrophone } = heard
  const { seen, preview, kind, frame, framing, inCapture, over } = shown
  const { microphones, cameras } = devices
  return {
    sound, computer, seen, preview, kind, faults, microphones, cameras, microphone, camera, levels, strengths,
    frame, framing, expected, inCapture, muted, over,
    canFrame, openMicrophone, openCamera, openScreen, pick, begin, captured, mix: heard.mixer.stream,
  } // prettier-ignore
}

export type Sources = ReturnType<typeof useSources>
