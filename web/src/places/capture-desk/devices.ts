/** The devices of a computer, and what can be wrong with one. */
import { onScopeDispose, ref } from 'vue'

/**
 * Why a source could not be opened; 'ended' when it was and is no more, 'taken' while it gives nothing, as when
 * another program has it.
 */
export type SourceFault = '' | 'denied' | 'missing' | 'busy' | 'ended' | 'taken'

export function faultOf(e: unknown): SourceFault {
  const name = e instanceof DOMException ? e.name : ''
  if (name === 'NotAllowedError' || name === 'SecurityError') return 'denied'
  if (name === 'NotFoundError' || name === 'OverconstrainedError') return 'missing'
  return 'busy'
}

export const stop = (s: MediaStream | undefined) => s?.getTracks().forEach((t) => t.stop())

/**
 * watchTrack tells what becomes of a track: a device that another program takes stays open here, and gives nothing
 * until it comes back.
 */
export function watchTrack(track: MediaStreamTrack | undefined, tell: (fault: SourceFault) => void) {
  track?.addEventListener('mute', () => tell('taken'))
  track?.addEventListener('unmute', () => tell(''))
  track?.addEventListener('ended', () => tell('ended'))
}

/** useDevices lists the microphones and cameras, anew when one comes or goes. */
export function useDevices() {
  const microphones = ref<MediaDeviceInfo[]>([])
  const cameras = ref<MediaDeviceInfo[]>([])
  async function look() {
    const all = await navigator.mediaDevices.enumerateDevices()
    microphones.value = all.filter((d) => d.kind === 'audioinput')
    cameras.value = all.filter((d) => d.kind === 'videoinput')
  }
  const listen = () => void look()
  navigator.mediaDevices?.addEventListener('devicechange', listen)
  onScopeDispose(() => navigator.mediaDevices?.removeEventListener('devicechange', listen))
  return { microphones, cameras, look }
}
