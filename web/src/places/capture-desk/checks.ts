/** The checklist that checks itself, before and during a capture: each line from a measurement, never from a tick. */
import { computed, onScopeDispose, reactive, ref, type Ref } from 'vue'
import { freeRoom } from '../../api/queries'
import { collegeNow } from '../../parts/clock'
import { clipping, heard, tooQuiet } from './level'
import type { Capturing } from './recorder'
import type { Eye, Sources } from './sources'

export interface Check {
  name: 'microphone' | 'level' | 'picture' | 'camera' | 'server' | 'line' | 'room' | 'here'
  state: 'good' | 'wait' | 'bad'
  /** Key of its words in the catalogue, and of its help when it is bad. */
  words: string
  values?: Record<string, string | number>
}

/**
 * Speech comes and goes: a level counts for as long as this. While capturing, silence is told of after a minute. In
 * milliseconds.
 */
const memory = 15_000
const silentAfter = 60_000
/** A camera always flickers a little: when not one dot of its picture changes for so long, it is frozen. */
const frozenAfter = 6000
/** A line that is so much behind and does not catch up is slower than the capture. */
const slowAfter = 20_000
/** Bytes an hour at the rates that are asked for, and hours that are little. */
const hourly = 1.2e9
const little = 2

/** Look measures one picture. */
class Look {
  private readonly pen: CanvasRenderingContext2D | null
  private before: Uint8ClampedArray | undefined
  private changed = Date.now()
  readonly found = reactive({ none: true, black: false, frozen: false })

  constructor(
    private readonly video: () => HTMLVideoElement | undefined,
    private readonly flickers: boolean,
  ) {
    const canvas = document.createElement('canvas')
    canvas.width = 64
    canvas.height = 36
    this.pen = canvas.getContext('2d', { willReadFrequently: true })
  }

  look(): void {
    const v = this.video()
    if (!document.hidden) this.found.none = !v || v.videoWidth === 0
    if (!v || !this.pen || v.videoWidth === 0 || document.hidden) {
      this.changed = Date.now()
      return
    }
    this.pen.drawImage(v, 0, 0, 64, 36)
    const d = this.pen.getImageData(0, 0, 64, 36).data
    let brightest = 0
    let same = this.before !== undefined
    for (let i = 0; i < d.length; i += 4) {
      brightest = Math.max(brightest, d[i]!, d[i + 1]!, d[i + 2]!)
      if (same && (d[i] !== this.before![i] || d[i + 1] !== this.before![i + 1])) same = false
    }
    this.before = d
    if (!same) this.changed = Date.now()
    this.found.black = brightest < 16
    this.found.frozen = this.flickers && Date.now() - this.changed > frozenAfter
  }
}

export function useChecks(
  sources: Sources,
  videos: Record<Eye, Ref<HTMLVideoElement | undefined>>,
  state: () => Capturing | undefined,
) {
  const loudest = ref({ rms: -Infinity, peak: -Infinity, at: 0 })
  /** When something was last heard, by the clock of the page. */
  const heardAt = ref(collegeNow())
  const silentFor = ref(0)
  const answers = ref<boolean>()
  const here = ref<number>()
  const there = ref<number>()
  const behind = ref<{ since: number; least: number }>()
  const looks: Record<Eye, Look> = {
    screen: new Look(() => videos.screen.value, false),
    camera: new Look(() => videos.camera.value, true),
  }

  async function ask() {
    try {
      there.value = (await freeRoom()).free_bytes
      answers.value = true
    } catch {
      answers.value = false
    }
    const e = await navigator.storage?.estimate?.()
    if (e?.quota) here.value = e.quota - (e.usage ?? 0)
  }

  function listen() {
    const both = [sources.levels.microphone, sources.levels.computer]
    const rms = Math.max(...both.map((l) => l.rms))
    const peak = Math.max(...both.map((l) => l.peak))
    const now = Date.now()
    if (rms >= loudest.value.rms || now - loudest.value.at > memory) loudest.value = { rms, peak, at: now }
    else if (peak > loudest.value.peak) loudest.value.peak = peak
    if (rms >= heard) heardAt.value = collegeNow()
    silentFor.value = collegeNow() - heardAt.value
  }

  function watchLine() {
    const s = state()
    if (!s) {
      behind.value = undefined
      return
    }
    const late = s.elapsed - s.progress.safe
    if (!s.progress.reached || late < slowAfter / 2) behind.value = undefined
    else if (!behind.value || late < behind.value.least - 2000) behind.value = { since: Date.now(), least: late }
  }

  const timers = [
    window.setInterval(listen, 100),
    window.setInterval(() => {
      looks.screen.look()
      looks.camera.look()
      watchLine()
    }, 1000),
    window.setInterval(() => void ask(), 5000),
  ]
  void ask()
  onScopeDispose(() => timers.forEach((t) => window.clearInterval(t)))

  function soundChecks(): Check[] {
    const l = loudest.value
    const fault = sources.faults.sound
    if (sources.muted.value || (sources.sound.value && sources.strengths.microphone === 0))
      return [{ name: 'microphone', state: 'wait', words: 'microphone_muted' }]
    const any = sources.sound.value !== undefined || sources.computer.value !== undefined
    if (fault === 'taken' || (fault && !sources.sound.value))
      return [{ name: 'microphone', state: 'bad', words: `microphone_${fault}` }]
    if (!any) return [{ name: 'microphone', state: 'wait', words: 'microphone_wait' }]
    if (state() && !state()?.paused && silentFor.value > silentAfter) {
      const values = { n: Math.floor(silentFor.value / 60_000) }
      return [{ name: 'microphone', state: 'bad', words: 'microphone_lost', values }]
    }
    if (l.rms < heard) return [{ name: 'microphone', state: 'wait', words: 'microphone_silent' }]
    const level = l.peak > clipping ? 'level_clipping' : l.rms < tooQuiet ? 'level_quiet' : 'level_good'
    return [
      { name: 'microphone', state: 'good', words: 'microphone_heard' },
      { name: 'level', state: level === 'level_good' ? 'good' : 'bad', words: level },
    ]
  }

  function pictureChecks(): Check[] {
    const out: Check[] = []
    const { seen, faults, kind, expected } = sources
    const of = (eye: Eye): Check | undefined => {
      const name = eye === 'screen' ? 'picture' : 'camera'
      if (faults[eye]) return { name, state: 'bad', words: `${eye}_${faults[eye]}` }
      if (!seen[eye].value) return undefined
      if (looks[eye].found.none) return { name, state: 'wait', words: `${eye}_waiting` }
      if (looks[eye].found.black) return { name, state: 'bad', words: `${eye}_black` }
      if (looks[eye].found.frozen) return { name, state: 'bad', words: `${eye}_frozen` }
      return { name, state: 'good', words: `${eye}_good` }
    }
    const screen = of('screen')
    if (screen) out.push(screen)
    else if (expected.value === 'screen' || expected.value === 'both')
      out.push({ name: 'picture', state: 'bad', words: 'screen_expected' })
    const camera = of('camera')
    if (camera) out.push(camera)
    if (out.length === 0 && kind.value === 'none') out.push({ name: 'picture', state: 'wait', words: 'picture_none' })
    return out
  }

  function roomCheck(name: 'room' | 'here', bytes: number | undefined): Check[] {
    if (bytes === undefined) return []
    const hours = bytes / hourly
    const good = hours > little
    // What is in order on this computer need not be said while all is well on the line.
    if (good && name === 'here' && state()) return []
    return [
      {
        name,
        state: good ? 'good' : 'bad',
        words: `${name}_${good ? 'good' : 'small'}`,
        values: { n: Math.floor(hours) },
      },
    ]
  }

  const checks = computed<Check[]>(() => {
    const s = state()
    const reached = s ? s.progress.reached : answers.value
    const words = reached === undefined ? 'server_wait' : reached ? 'server_good' : 'server_away'
    const out: Check[] = [...soundChecks(), ...pictureChecks()]
    out.push({ name: 'server', state: reached === undefined ? 'wait' : reached ? 'good' : 'bad', words })
    const b = behind.value
    if (s && b && b.least > slowAfter / 2 && Date.now() - b.since > slowAfter) {
      const values = { n: Math.round((s.elapsed - s.progress.safe) / 1000) }
      out.push({ name: 'line', state: 'bad', words: 'line_slow', values })
    }
    return [...out, ...(reached ? roomCheck('room', there.value) : []), ...roomCheck('here', here.value)]
  })
  return { checks, silentFor, speak: () => (heardAt.value = collegeNow()) }
}
