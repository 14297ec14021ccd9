/** What is captured: a microphone, and a camera or something that is shown. */
import { onScopeDispose, ref, shallowRef } from 'vue'
import { Ear, silence, type Level } from './level'

export type Picture = 'camera' | 'screen' | 'none'

/** Why a source could not be opened. */
export type SourceFault = '' | 'denied' | 'missing' | 'busy'

function faultOf(e: unknown): SourceFault {
  const name = e instanceof DOMException ? e.name : ''
  if (name === 'NotAllowedError' || name === 'SecurityError') return 'denied'
  if (name === 'NotFoundError' || name === 'OverconstrainedError') return 'missing'
  return 'busy'
}

const remembered = 'late-lantern-desk'

interface Choice {
  microphone?: string
  picture?: Picture
}

function recall(): Choice {
  try {
    return JSON.parse(localStorage.getItem(remembered) ?? '{}') as Choice
  } catch {
    return {}
  }
}

export function useSources() {
  const sound = shallowRef<MediaStream>()
  const pictures = shallowRef<MediaStream>()
  const kind = ref<Picture>('none')
  const soundFault = ref<SourceFault>('')
  const pictureFault = ref<SourceFault>('')
  const pictureEnded = ref(false)
  const microphones = ref<MediaDeviceInfo[]>([])
  const microphone = ref('')
  const level = ref<Level>(silence)
  let ear: Ear | undefined

  const remember = () =>
    localStorage.setItem(remembered, JSON.stringify({ microphone: microphone.value, picture: kind.value }))

  const stop = (s: MediaStream | undefined) => s?.getTracks().forEach((t) => t.stop())

  async function openMicrophone(id = '') {
    soundFault.value = ''
    try {
      const s = await navigator.mediaDevices.getUserMedia({
        audio: { deviceId: id ? { exact: id } : undefined, echoCancellation: false, autoGainControl: true },
      })
      stop(sound.value)
      ear?.close()
      sound.value = s
      ear = new Ear(s)
      microphone.value = s.getAudioTracks()[0]?.getSettings().deviceId ?? ''
      microphones.value = (await navigator.mediaDevices.enumerateDevices()).filter((d) => d.kind === 'audioinput')
      s.getAudioTracks()[0]?.addEventListener('ended', () => (soundFault.value = 'missing'))
      remember()
    } catch (e) {
      if (id) return openMicrophone() // a remembered one may be gone
      soundFault.value = faultOf(e)
    }
  }

  async function openPicture(k: Picture) {
    pictureFault.value = ''
    try {
      let s: MediaStream | undefined
      if (k === 'camera')
        s = await navigator.mediaDevices.getUserMedia({ video: { width: 1280, height: 720, frameRate: 30 } })
      if (k === 'screen') s = await navigator.mediaDevices.getDisplayMedia({ video: { frameRate: 30 }, audio: false })
      stop(pictures.value)
      pictures.value = s
      pictureEnded.value = false
      kind.value = k
      s?.getVideoTracks()[0]?.addEventListener('ended', () => (pictureEnded.value = true))
      remember()
    } catch (e) {
      // Someone who changed their mind in the browser's own dialog has lost nothing.
      pictureFault.value = faultOf(e)
    }
  }

  /** begin opens what was used on this computer the last time. What is shown must be chosen anew. */
  async function begin() {
    const c = recall()
    await openMicrophone(c.microphone)
    if (c.picture === 'camera') await openPicture('camera')
  }

  const timer = window.setInterval(() => (level.value = ear?.hear() ?? silence), 100)
  onScopeDispose(() => {
    window.clearInterval(timer)
    ear?.close()
    stop(sound.value)
    stop(pictures.value)
  })

  /** all is one stream of everything that was chosen. */
  const all = () =>
    new MediaStream([...(pictures.value?.getVideoTracks() ?? []), ...(sound.value?.getAudioTracks() ?? [])])

  return {
    sound, pictures, kind, soundFault, pictureFault, pictureEnded, microphones, microphone, level,
    openMicrophone, openPicture, begin, all,
  } // prettier-ignore
}
