/** The checklist that checks itself, before and during a capture: each line from a measurement, never from a tick. */
import { computed, onScopeDispose, ref, type Ref } from 'vue'
import { freeRoom } from '../../api/queries'
import { collegeNow } from '../../parts/clock'
import { clipping, heard, tooQuiet } from './level'
import { Look } from './look'
import type { Capturing } from './recorder'
import type { Eye, Sources } from './sources'

export interface Check {
  name: 'microphone' | 'level' | 'picture' | 'camera' | 'server' | 'line' | 'room' | 'here'
  state: 'good' | 'wait' | 'bad'
  /** Key of its words in the catalogue, and of its help when it is bad. */
  words: string
  values?: Record<string, string | number>
}

type Now = () => Capturing | undefined

/**
 * Speech comes and goes: a level counts for as long as this. While capturing, silence is told of after a minute. In
 * milliseconds.
 */
const memory = 15_000
const silentAfter = 60_000
/** A line that is so much behind and does not catch up is slower than the capture. */
const slowAfter = 20_000
/** Bytes an hour at the rates that are asked for, and hours that are little. */
const hourly = 1.2e9
const little = 2

/** every does something now and again, until the page is left. */
function every(milliseconds: number, what: () => void) {
  const timer = window.setInterval(what, milliseconds)
  onScopeDispose(() => window.clearInterval(timer))
}

/** useLoudest is the loudest of the last seconds, and for how long nothing was heard. */
function useLoudest(sources: Sources) {
  const loudest = ref({ rms: -Infinity, peak: -Infinity, at: 0 })
  /** When something was last heard, by the clock of the page. */
  const heardAt = ref(collegeNow())
  const silentFor = ref(0)
  every(100, () => {
    const both = [sources.levels.microphone, sources.levels.computer]
    const rms = Math.max(...both.map((l) => l.rms))
    const peak = Math.max(...both.map((l) => l.peak))
    const now = Date.now()
    if (rms >= loudest.value.rms || now - loudest.value.at > memory) loudest.value = { rms, peak, at: now }
    else if (peak > loudest.value.peak) loudest.value.peak = peak
    if (rms >= heard) heardAt.value = collegeNow()
    silentFor.value = collegeNow() - heardAt.value
  })
  return { loudest, silentFor, speak: () => (heardAt.value = collegeNow()) }
}

/** useRoom is whether the server answers, and how many bytes are free there and here. */
function useRoom() {
  const answers = ref<boolean>()
  const here = ref<number>()
  const there = ref<number>()
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
  every(5000, () => void ask())
  void ask()
  return { answers, here, there }
}

/** useLate is how far a capture is behind while it does not catch up, in milliseconds; undefined while all is well. */
function useLate(state: Now) {
  const behind = ref<{ since: number; least: number }>()
  every(1000, () => {
    const s = state()
    const late = s ? s.elapsed - s.progress.safe : 0
    if (!s?.progress.reached || late < slowAfter / 2) behind.value = undefined
    else if (!behind.value || late < behind.value.least - 2000) behind.value = { since: Date.now(), least: late }
  })
  return () => {
    const s = state()
    const b = behind.value
    return s && b && b.least > slowAfter / 2 && Date.now() - b.since > slowAfter
      ? s.elapsed - s.progress.safe
      : undefined
  }
}

function soundChecks(sources: Sources, l: { rms: number; peak: number }, silent: number): Check[] {
  const fault = sources.faults.sound
  if (sources.muted.value || (sources.sound.value && sources.strengths.microphone === 0))
    return [{ name: 'microphone', state: 'wait', words: 'microphone_muted' }]
  const any = sources.sound.value !== undefined || sources.computer.value !== undefined
  if (fault === 'taken' || (fault && !sources.sound.value))
    return [{ name: 'microphone', state: 'bad', words: `microphone_${fault}` }]
  if (!any) return [{ name: 'microphone', state: 'wait', words: 'microphone_wait' }]
  if (silent > silentAfter) {
    const values = { n: Math.floor(silent / 60_000) }
    return [{ name: 'microphone', state: 'bad', words: 'microphone_lost', values }]
  }
  if (l.rms < heard) return [{ name: 'microphone', state: 'wait', words: 'microphone_silent' }]
  const level = l.peak > clipping ? 'level_clipping' : l.rms < tooQuiet ? 'level_quiet' : 'level_good'
  return [
    { name: 'microphone', state: 'good', words: 'microphone_heard' },
    { name: 'level', state: level === 'level_good' ? 'good' : 'bad', words: level },
  ]
}

function pictureCheck(eye: Eye, sources: Sources, found: Look['found']): Check | undefined {
  const name = eye === 'screen' ? 'picture' : 'camera'
  const fault = sources.faults[eye]
  if (fault) return { name, state: 'bad', words: `${eye}_${fault}` }
  if (!sources.seen[eye].value) return undefined
  if (found.none) return { name, state: 'wait', words: `${eye}_waiting` }
  if (found.black) return { name, state: 'bad', words: `${eye}_black` }
  if (found.frozen) return { name, state: 'bad', words: `${eye}_frozen` }
  return { name, state: 'good', words: `${eye}_good` }
}

function pictureChecks(sources: Sources, looks: Record<Eye, Look>): Check[] {
  const out: Check[] = []
  const { kind, expected } = sources
  const screen = pictureCheck('screen', sources, looks.screen.found)
  if (screen) out.push(screen)
  else if (expected.value === 'screen' || expected.value === 'both')
    out.push({ name: 'picture', state: 'bad', words: 'screen_expected' })
  const camera = pictureCheck('camera', sources, looks.camera.found)
  if (camera) out.push(camera)
  if (out.length === 0 && kind.value === 'none') out.push({ name: 'picture', state: 'wait', words: 'picture_none' })
  return out
}

function roomCheck(name: 'room' | 'here', bytes: number | undefined): Check[] {
  if (bytes === undefined) return []
  const hours = bytes / hourly
  const size = hours > little ? 'good' : 'small'
  return [
    {
      name,
      state: size === 'good' ? 'good' : 'bad',
      words: `${name}_${size}`,
      values: { n: Math.floor(hours) },
    },
  ]
}

export function useChecks(sources: Sources, videos: Record<Eye, Ref<HTMLVideoElement | undefined>>, state: Now) {
  const { loudest, silentFor, speak } = useLoudest(sources)
  const { answers, here, there } = useRoom()
  const late = useLate(state)
  const looks: Record<Eye, Look> = {
    screen: new Look(() => videos.screen.value, false),
    camera: new Look(() => videos.camera.value, true),
  }
  every(1000, () => {
    looks.screen.look()
    looks.camera.look()
  })

  const checks = computed<Check[]>(() => {
    const s = state()
    const silent = s && !s.paused ? silentFor.value : 0
    const reached = s ? s.progress.reached : answers.value
    const words = reached === undefined ? 'server_wait' : reached ? 'server_good' : 'server_away'
    const out: Check[] = [...soundChecks(sources, loudest.value, silent), ...pictureChecks(sources, looks)]
    out.push({ name: 'server', state: reached === undefined ? 'wait' : reached ? 'good' : 'bad', words })
    const behind = late()
    if (behind !== undefined)
      out.push({ name: 'line', state: 'bad', words: 'line_slow', values: { n: Math.round(behind / 1000) } })
    if (reached) out.push(...roomCheck('room', there.value))
    // What is in order on this computer need not be said while all is well on the line.
    out.push(...roomCheck('here', here.value).filter((c) => c.state === 'bad' || !s))
    return out
  })
  return { checks, silentFor, speak }
}
