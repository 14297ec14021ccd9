/** Sends what is kept here to the server, in order, until it has all of it. */
import { Problem } from '../../api/client'
import { sendMarker } from '../../api/queries'
import { dropStored, forget, forgetMarker, keepCapture, markersOf, nextPieces, type Kept } from './keep'
import { append, begin, stored } from './wire'

/** At most this many pieces go in one request: a second each. */
const atOnce = 20

export interface Progress {
  /** Bytes that the server has on its disk. */
  offset: number
  /** Milliseconds of the capture that these are. */
  safe: number
  reached: boolean
  finished: boolean
  recording?: string
  /** What stands in the way for good. */
  fault?: Problem
}

/** Refused tells whether an answer means that trying again is of no use. */
const refused = (status: number) => status >= 400 && status < 500 && ![401, 408, 409, 412, 425, 429].includes(status)

/**
 * Sender sends one capture. It waits when there is nothing to send, and goes on by itself after the line or the
 * server failed.
 */
export class Sender {
  private offset = 0
  private safe = 0
  private wake: (() => void) | undefined
  private stopped = false

  constructor(
    private readonly capture: Kept,
    private readonly tell: (p: Progress) => void = () => undefined,
    /** How long ago it began, in milliseconds. */
    private readonly age: () => number = () => Date.now() - capture.began,
  ) {}

  /** poke tells that there is more to send. */
  poke(): void {
    this.wake?.()
  }

  /** close ends the sending without losing what is kept. */
  close(): void {
    this.stopped = true
    this.poke()
  }

  /** run sends until the whole capture is stored, or it is closed or refused. It reports whether all is stored. */
  async run(): Promise<boolean> {
    let wait = 500
    while (!this.stopped) {
      try {
        const all = await this.once()
        await this.sendMarkers()
        if (all) {
          await forget(this.capture.id)
          this.report({ reached: true, finished: true })
          return true
        }
        wait = 500
      } catch (e) {
        if (e instanceof Problem && (refused(e.status) || e.kind === 'complete')) {
          this.report({ reached: true, finished: false, fault: e })
          return false
        }
        // Someone must sign in again, or make room; until then it is tried again and again.
        const told = e instanceof Problem && (e.status === 401 || e.status === 507)
        this.report({ reached: told && e.status === 507, finished: false, fault: told ? e : undefined })
        await this.pause(wait)
        wait = Math.min(wait * 2, 4000)
        await this.align().catch(() => undefined)
      }
    }
    return false
  }

  private report(p: Omit<Progress, 'offset' | 'safe' | 'recording'>): void {
    this.tell({ ...p, offset: this.offset, safe: this.safe, recording: this.capture.recording })
  }

  private pause(ms: number): Promise<void> {
    return new Promise((done) => {
      const timer = window.setTimeout(done, ms)
      this.wake = () => {
        window.clearTimeout(timer)
        done()
      }
    })
  }

  /** once sends what is here now and reports whether the capture is complete. */
  private async once(): Promise<boolean> {
    const c = this.capture
    if (!c.track) await this.begin()
    const pieces = await nextPieces(c.id, atOnce)
    if (pieces.length === 0) {
      if (c.total === undefined) {
        await this.pause(1000)
        return false
      }
      if (this.offset < c.total) await this.align()
      this.offset = await append(c.track!, this.offset, new Blob([]), this.offset) // everything that is left of it
      return true
    }
    if (this.offset === 0 && pieces[0]!.offset > 0) await this.align()
    const todo = pieces.filter((p) => p.offset + p.bytes.byteLength > this.offset)
    if (todo.length > 0) {
      const first = todo[0]!
      if (first.offset > this.offset) throw new Problem(422, 'gap')
      const blob = new Blob(todo.map((p) => p.bytes)).slice(this.offset - first.offset)
      this.offset = await append(c.track!, this.offset, blob)
      this.safe = todo[todo.length - 1]!.until
    }
    await dropStored(pieces, this.offset)
    this.report({ reached: true, finished: false })
    return false
  }

  /** sendMarkers sends what was flagged meanwhile. A marker that is refused is not worth the capture. */
  async sendMarkers(): Promise<void> {
    const c = this.capture
    if (!c.track) return
    for (const m of await markersOf(c.id)) {
      try {
        await sendMarker(c.id, m.id, { at_ms: Math.round(m.at), pause_ms: Math.round(m.pause ?? 0), word: m.word })
      } catch (e) {
        if (!(e instanceof Problem) || !refused(e.status)) throw e
      }
      await forgetMarker(m)
    }
  }

  private async begin(): Promise<void> {
    const c = this.capture
    Object.assign(c, await begin(c, this.age()))
    await keepCapture({ ...c })
    this.report({ reached: true, finished: false })
  }

  /** align asks how much the server has. */
  private async align(): Promise<void> {
    if (this.capture.track) this.offset = await stored(this.capture.track)
  }
}
