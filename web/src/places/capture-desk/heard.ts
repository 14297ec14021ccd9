/** What is heard: a microphone and the computer's own sound, in one mix. */
import { onScopeDispose, reactive, ref, shallowRef, watch } from 'vue'
import { faultOf, stop, watchTrack, type SourceFault } from './devices'
import { Mixer, silence, type Level } from './level'

/** useHeard mixes what is heard. Whoever uses it says when the devices should be looked at, and what is remembered. */
export function useHeard(
  strong: { microphone: number; computer: number } | undefined,
  told: { fault: (f: SourceFault) => void; look: () => Promise<void>; remember: () => void },
) {
  const mixer = new Mixer()
  const sound = shallowRef<MediaStream>()
  const computer = shallowRef<MediaStream>()
  const microphone = ref('')
  const levels = reactive<{ microphone: Level; computer: Level }>({ microphone: silence, computer: silence })
  const strengths = reactive(strong ?? { microphone: 1, computer: 1 })
  /** Nothing that the microphone hears is captured, while all else goes on. */
  const muted = ref(false)

  const apply = () => {
    mixer.microphone.strength = muted.value ? 0 : strengths.microphone
    mixer.computer.strength = strengths.computer
  }
  apply()
  watch(
    [strengths, muted],
    () => {
      apply()
      told.remember()
    },
    { deep: true },
  )

  async function openMicrophone(id = ''): Promise<void> {
    told.fault('')
    try {
      const s = await navigator.mediaDevices.getUserMedia({
        audio: { deviceId: id ? { exact: id } : undefined, echoCancellation: false, autoGainControl: true },
      })
      stop(sound.value)
      sound.value = s
      mixer.microphone.from(s)
      mixer.wake()
      const track = s.getAudioTracks()[0]
      microphone.value = track?.getSettings().deviceId ?? ''
      await told.look()
      watchTrack(track, (fault) => {
        if (sound.value !== s) return
        if (fault === 'ended') {
          sound.value = undefined
          mixer.microphone.from(undefined)
        }
        told.fault(fault)
      })
      told.remember()
    } catch (e) {
      if (id) return openMicrophone() // a remembered one may be gone
      told.fault(faultOf(e))
    }
  }

  /** hearComputer takes the sound that comes with a screen, if there is any. */
  function hearComputer(s: MediaStream | undefined) {
    computer.value = s && s.getAudioTracks().length > 0 ? s : undefined
    mixer.computer.from(computer.value)
    mixer.wake()
  }

  const timer = window.setInterval(() => {
    levels.microphone = mixer.microphone.hear()
    levels.computer = mixer.computer.hear()
  }, 100)
  onScopeDispose(() => {
    window.clearInterval(timer)
    stop(sound.value)
    mixer.close()
  })
  return { mixer, sound, computer, microphone, levels, strengths, muted, openMicrophone, hearComputer }
}
