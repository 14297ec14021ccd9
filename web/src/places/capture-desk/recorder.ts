/** Records what is captured into pieces of about a second, and keeps each before anything else is done with it. */
import { keepCapture, keepMarker, keepPiece, type Kept, type Marker } from './keep'
import { sayPaused } from '../../api/queries'
import { Sender, type Progress } from './sender'
import { lockName } from './unsent'

/** In order of how little work they leave to the server: what is H.264 already needs no encoding. */
const types = [
  'video/x-matroska;codecs=avc1,opus',
  'video/webm;codecs=h264,opus',
  'video/webm;codecs=vp9,opus',
  'video/webm;codecs=vp8,opus',
  'video/webm',
]
const soundTypes = ['audio/webm;codecs=opus', 'audio/webm']

/** The browser may start to record late; after this long without a byte something is wrong. */
const noDataAfter = 8000

/** A piece that this computer has not kept after this long, it cannot keep. */
const notKeptAfter = 8000

/** When nothing comes for longer than this and then something does, the computer slept. */
const asleepAfter = 15_000

/** keyFrames is asked for so that the server can cut segments of two seconds. */
interface Options extends MediaRecorderOptions {
  videoKeyFrameIntervalDuration?: number
}

/** What is captured: a lecture, and whether nobody is invited. */
export interface Of {
  lecture: string
  alone: boolean
}

/** Strand is one track that is recorded and sent. */
class Strand {
  readonly id = crypto.randomUUID()
  private readonly recorder: MediaRecorder
  private readonly capture: Kept
  private readonly sender: Sender
  private length = 0
  private writing: Promise<void>
  private release: (() => void) | undefined
  readonly sent: Promise<boolean>
  private lastAt = Date.now()
  lastData = performance.now()
  private tellKnown: () => void = () => undefined
  /** known resolves when the server knows of it, or refuses it. */
  readonly known = new Promise<void>((done) => (this.tellKnown = done))
  /** When the oldest piece that is not yet kept came. */
  private unkept: number | undefined
  progress: Progress = { offset: 0, safe: 0, reached: true, finished: false }
  private fault: unknown

  constructor(
    stream: MediaStream,
    of: Of,
    bitsPerSecond: number,
    private readonly elapsed: () => number,
    private readonly slept: () => void,
    beside?: { id: string; lag: number; known: Promise<void> },
  ) {
    const pictures = stream.getVideoTracks().length > 0
    const mimeType = (pictures ? types : soundTypes).find((x) => MediaRecorder.isTypeSupported(x)) ?? ''
    this.capture = {
      id: this.id,
      lecture: of.lecture,
      alone: of.alone,
      mediaType: mimeType,
      began: Date.now(),
      beside: beside?.id,
      lag: beside?.lag,
    }
    const began = performance.now()
    const options: Options = {
      mimeType,
      videoBitsPerSecond: bitsPerSecond,
      audioBitsPerSecond: 128_000,
      videoKeyFrameIntervalDuration: 2000,
    }
    this.recorder = new MediaRecorder(stream, options)
    this.sender = new Sender(
      this.capture,
      (p) => {
        this.progress = p
        if (p.recording || p.fault || p.finished) this.tellKnown()
      },
      () => performance.now() - began,
    )
    void navigator.locks.request(lockName(this.id), () => new Promise<void>((done) => (this.release = done)))
    this.recorder.ondataavailable = (e) => this.keep(e.data)
    this.writing = keepCapture({ ...this.capture })
    this.recorder.start(1000)
    this.sent = this.writing.then(() => beside?.known).then(() => this.sender.run())
  }

  private keep(data: Blob): void {
    if (data.size === 0) return
    const gap = Date.now() - this.lastAt
    this.lastAt = Date.now()
    this.lastData = performance.now()
    const until = this.elapsed()
    this.unkept ??= this.lastData
    this.writing = this.writing
      .then(async () => {
        const bytes = await data.arrayBuffer()
        await keepPiece({ capture: this.id, offset: this.length, bytes, until })
        this.length += bytes.byteLength
        this.unkept = undefined
        this.sender.poke()
      })
      .catch((e: unknown) => {
        this.fault ??= e
      })
    if (gap > asleepAfter && !this.ended) this.slept()
  }

  /** keepFault tells that this computer does not keep what is captured. */
  get keepFault(): boolean {
    const late = this.unkept !== undefined && performance.now() - this.unkept > notKeptAfter
    return late || this.fault !== undefined
  }

  /** poke tells that there is more to send. A word that comes after all else was sent is sent by itself. */
  poke(): void {
    if (this.progress.finished) void this.sender.sendMarkers().catch(() => undefined)
    else this.sender.poke()
  }

  pause(on: boolean): void {
    if (this.recorder.state === 'inactive') return
    if (on) this.recorder.pause()
    else this.recorder.resume()
    this.lastData = performance.now()
    this.lastAt = Date.now()
  }

  get silent(): boolean {
    return this.recorder.state === 'recording' && performance.now() - this.lastData > noDataAfter
  }

  get ended(): boolean {
    return this.recorder.state === 'inactive'
  }

  /** stop ends the recording; what was recorded is sent on until `sent`. */
  async stop(): Promise<void> {
    if (this.recorder.state !== 'inactive') {
      const last = new Promise<void>((done) => this.recorder.addEventListener('stop', () => done(), { once: true }))
      this.recorder.stop()
      await last
    }
    await this.writing
    this.capture.total = this.length
    await keepCapture({ ...this.capture })
    this.sender.poke()
    void this.sent.then(() => this.release?.())
  }
}

/** Take is what is captured without a break: one picture and the sound, and perhaps a second picture. */
class Take {
  private readonly began = performance.now()
  private pausedAt: number | undefined
  private pauses = 0
  private over: number | undefined
  private readonly strands: Strand[]

  constructor(streams: { first: MediaStream; second: MediaStream | undefined }, of: Of, slept: () => void) {
    const elapsed = () => this.elapsed
    const first = new Strand(streams.first, of, 2_300_000, elapsed, slept)
    const beside = () => ({ id: first.id, lag: performance.now() - this.began })
    this.strands = [first]
    // The server hears of the second once it knows the first.
    if (streams.second)
      this.strands.push(
        new Strand(streams.second, of, 1_000_000, elapsed, () => undefined, { ...beside(), known: first.known }),
      )
  }

  /** elapsed is how much is captured, in milliseconds, pauses left out. */
  get elapsed(): number {
    return (this.over ?? this.pausedAt ?? performance.now()) - this.began - this.pauses
  }

  get paused(): boolean {
    return this.pausedAt !== undefined
  }

  get progress(): Progress {
    const all = this.strands.map((s) => s.progress)
    return {
      offset: all.reduce((sum, p) => sum + p.offset, 0),
      safe: Math.min(...all.map((p) => p.safe)),
      reached: all.every((p) => p.reached),
      finished: all.every((p) => p.finished),
      recording: all[0]?.recording,
      fault: all.find((p) => p.fault)?.fault,
    }
  }

  get silent(): boolean {
    return this.strands.some((s) => s.silent || (s.ended && this.over === undefined))
  }

  get keepFault(): boolean {
    return this.strands.some((s) => s.keepFault)
  }

  pause(): void {
    if (this.paused || this.over !== undefined) return
    this.pausedAt = performance.now()
    this.strands.forEach((s) => s.pause(true))
    void this.tellPaused()
  }

  /**
   * tellPaused tells the server whether it pauses, so that whoever follows knows; until it was heard, or is
   * otherwise.
   */
  private async tellPaused(): Promise<void> {
    const on = this.paused
    for (let wait = 500; on === this.paused && wait < 60_000; wait *= 2) {
      try {
        return await sayPaused(this.strands[0]!.id, on)
      } catch {
        await new Promise((done) => window.setTimeout(done, wait))
      }
    }
  }

  resume(): void {
    if (this.pausedAt === undefined) return
    const pause = performance.now() - this.pausedAt
    void this.keep({ at: this.elapsed, pause, word: '' })
    this.pauses += pause
    this.pausedAt = undefined
    this.strands.forEach((s) => s.pause(false))
    if (this.over === undefined) void this.tellPaused()
  }

  /** keep keeps a marker, which is sent with the capture. */
  async keep(m: Omit<Marker, 'id' | 'capture'>, id: string = crypto.randomUUID()): Promise<string> {
    await keepMarker({ id, capture: this.strands[0]!.id, ...m })
    this.strands[0]!.poke()
    return id
  }

  async stop(): Promise<void> {
    if (this.over !== undefined) return
    this.resume()
    this.over = performance.now()
    await Promise.all(this.strands.map((s) => s.stop()))
  }

  /** sent resolves when every byte is on the disk of the server, to whether that is so. */
  async sent(): Promise<boolean> {
    return (await Promise.all(this.strands.map((s) => s.sent))).every(Boolean)
  }
}

export interface Capturing {
  /** How much is captured, and how much of it is safe on the server, in milliseconds. */
  elapsed: number
  progress: Progress
  paused: boolean
  /** The browser gives nothing, or cannot go on. */
  silent: boolean
  /** This computer does not keep what is captured. */
  keepFault: boolean
  /** How often the computer slept, or the like: each time a new part began. */
  parts: number
}

/**
 * Recorder captures a lecture. When the computer slept in between it goes on as a new part, so that its clock stays
 * right.
 */
export class Recorder {
  private readonly takes: Take[]
  private stopped = false
  constructor(
    private readonly streams: { first: MediaStream; second: MediaStream | undefined },
    private readonly of: Of,
  ) {
    this.takes = [new Take(streams, of, () => this.anew())]
  }

  private get now(): Take {
    return this.takes[this.takes.length - 1]!
  }

  /** state tells how things stand. */
  state(): Capturing {
    let safe = 0
    for (const t of this.takes) {
      const p = t.progress
      safe += p.finished ? t.elapsed : p.safe
      if (!p.finished) break
    }
    const p = this.now.progress
    return {
      elapsed: this.takes.reduce((sum, t) => sum + t.elapsed, 0),
      progress: { ...p, safe, recording: p.recording ?? this.takes[0]!.progress.recording },
      paused: this.now.paused,
      silent: this.now.silent,
      keepFault: this.takes.some((t) => t.keepFault),
      parts: this.takes.length,
    }
  }

  private anew(): void {
    if (this.stopped) return
    void this.now.stop()
    this.takes.push(new Take(this.streams, this.of, () => this.anew()))
  }

  pause(): void {
    this.now.pause()
  }

  resume(): void {
    this.now.resume()
  }

  /** mark flags this moment. The word can be given later, by the id that comes back. */
  mark(): { at: number; total: number; write: (word: string) => Promise<void> } {
    const take = this.now
    const at = take.elapsed
    const total = this.takes.reduce((sum, t) => sum + t.elapsed, 0)
    const id = take.keep({ at, word: '' })
    return { at, total, write: async (word) => void (await take.keep({ at, word }, await id)) }
  }

  /** stop ends the capture. It resolves when every byte is on the disk of the server, to whether that is so. */
  async stop(): Promise<boolean> {
    this.stopped = true
    await this.now.stop()
    return (await Promise.all(this.takes.map((t) => t.sent()))).every(Boolean)
  }
}
