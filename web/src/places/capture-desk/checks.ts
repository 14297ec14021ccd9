/** The checklist that checks itself: each line from a measurement, never from a tick. */
import { computed, onScopeDispose, ref, toValue, type MaybeRefOrGetter, type Ref } from 'vue'
import { clipping, heard, tooQuiet, type Level } from './level'
import type { Picture, SourceFault } from './sources'

export interface Check {
  name: 'microphone' | 'level' | 'picture' | 'server' | 'room'
  state: 'good' | 'wait' | 'bad'
  /** Key of its words in the catalogue, and of its help when it is bad. */
  words: string
  values?: Record<string, string | number>
}

/** Speech comes and goes: a level counts for as long as this, in milliseconds. */
const memory = 15_000

export interface Facts {
  level: Ref<Level>
  soundFault: Ref<SourceFault>
  hasSound: () => boolean
  picture: Ref<Picture>
  pictureFault: Ref<SourceFault>
  pictureEnded: Ref<boolean>
  video: MaybeRefOrGetter<HTMLVideoElement | undefined>
  /** Undefined while the desk must find out by itself. */
  reached: () => boolean | undefined
}

export function useChecks(f: Facts) {
  const loudest = ref({ rms: -Infinity, peak: -Infinity, at: 0 })
  const black = ref(false)
  const answers = ref<boolean>()
  const room = ref<number>()
  const canvas = document.createElement('canvas')
  canvas.width = 32
  canvas.height = 18
  const pen = canvas.getContext('2d', { willReadFrequently: true })

  function look() {
    const v = toValue(f.video)
    if (!v || !pen || v.videoWidth === 0) return
    pen.drawImage(v, 0, 0, canvas.width, canvas.height)
    const d = pen.getImageData(0, 0, canvas.width, canvas.height).data
    let brightest = 0
    for (let i = 0; i < d.length; i += 4) brightest = Math.max(brightest, d[i]!, d[i + 1]!, d[i + 2]!)
    black.value = brightest < 16
  }

  async function askServer() {
    try {
      answers.value = (await fetch('/healthz', { signal: AbortSignal.timeout(5000) })).ok
    } catch {
      answers.value = false
    }
    const e = await navigator.storage?.estimate?.()
    if (e?.quota) room.value = e.quota - (e.usage ?? 0)
  }

  const listen = window.setInterval(() => {
    const { rms, peak } = f.level.value
    const now = Date.now()
    if (rms >= loudest.value.rms || now - loudest.value.at > memory) loudest.value = { rms, peak, at: now }
    else if (peak > loudest.value.peak) loudest.value.peak = peak
  }, 100)
  const watch = window.setInterval(look, 1000)
  const knock = window.setInterval(() => void askServer(), 4000)
  void askServer()
  onScopeDispose(() => [listen, watch, knock].forEach((t) => window.clearInterval(t)))

  return computed<Check[]>(() => {
    const out: Check[] = []
    const l = loudest.value
    if (f.soundFault.value) out.push({ name: 'microphone', state: 'bad', words: `microphone_${f.soundFault.value}` })
    else if (!f.hasSound()) out.push({ name: 'microphone', state: 'wait', words: 'microphone_wait' })
    else if (l.rms < heard) out.push({ name: 'microphone', state: 'wait', words: 'microphone_silent' })
    else out.push({ name: 'microphone', state: 'good', words: 'microphone_heard' })
    if (f.hasSound() && l.rms >= heard) {
      if (l.peak > clipping) out.push({ name: 'level', state: 'bad', words: 'level_clipping' })
      else if (l.rms < tooQuiet) out.push({ name: 'level', state: 'bad', words: 'level_quiet' })
      else out.push({ name: 'level', state: 'good', words: 'level_good' })
    }
    if (f.pictureFault.value && f.picture.value === 'none')
      out.push({ name: 'picture', state: 'bad', words: `picture_${f.pictureFault.value}` })
    else if (f.pictureEnded.value) out.push({ name: 'picture', state: 'bad', words: 'picture_ended' })
    else if (f.picture.value === 'none') out.push({ name: 'picture', state: 'wait', words: 'picture_none' })
    else if (black.value) out.push({ name: 'picture', state: 'bad', words: 'picture_black' })
    else out.push({ name: 'picture', state: 'good', words: 'picture_good' })
    const reached = f.reached() ?? answers.value
    out.push({
      name: 'server',
      state: reached === undefined ? 'wait' : reached ? 'good' : 'bad',
      words: reached === undefined ? 'server_wait' : reached ? 'server_good' : 'server_away',
    })
    if (room.value !== undefined) {
      // About 1.2 GB an hour at the rate that is asked for.
      const hours = room.value / 1.2e9
      out.push({
        name: 'room',
        state: hours > 2 ? 'good' : 'bad',
        words: hours > 2 ? 'room_good' : 'room_small',
        values: { n: Math.floor(hours) },
      })
    }
    return out
  })
}
