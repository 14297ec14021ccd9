/** Records what is captured, a track or two at a time, and goes on when the computer slept. */
import { sayPaused } from '../../api/queries'
import { keepMarker, type Marker } from './keep'
import type { Progress } from './sender'
import { Strand, type Of } from './strand'

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
