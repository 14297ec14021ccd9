/** Sends what is kept here to the server, in order, until it has all of it. */
import { toProblem, Problem } from '../../api/client'
import { sendMarker } from '../../api/queries'
import {
  captures,
  dropStored,
  endOfPieces,
  forget,
  forgetMarker,
  keepCapture,
  markersOf,
  nextPieces,
  type Kept,
} from './keep'

const tus = { 'Tus-Resumable': '1.0.0' }

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

const encode = (text: string) => btoa(String.fromCharCode(...new TextEncoder().encode(text)))

/** Refused tells whether an answer means that trying again is of no use. */
const refused = (status: number) => status >= 400 && status < 500 && ![401, 408, 409, 412, 425, 429].includes(status)

/** Sender sends one capture. It waits when there is nothing to send, and goes on by itself after the line or the server failed. */
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
      await this.append(new Blob([]), this.offset) // everything that is left of it
      return true
    }
    if (this.offset === 0 && pieces[0]!.offset > 0) await this.align()
    const todo = pieces.filter((p) => p.offset + p.bytes.byteLength > this.offset)
    if (todo.length > 0) {
      const first = todo[0]!
      if (first.offset > this.offset) throw new Problem(422, 'gap', '')
      const blob = new Blob(todo.map((p) => p.bytes)).slice(this.offset - first.offset)
      await this.append(blob)
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

  private async call(path: string, init: RequestInit): Promise<Response> {
    // A server that does not answer is as good as none.
    const answer = await fetch(path, { ...init, signal: AbortSignal.timeout(20_000) })
    if (!answer.ok) throw toProblem(answer.status, await answer.json().catch(() => undefined))
    return answer
  }

  private async begin(): Promise<void> {
    const c = this.capture
    // To ask again after an answer was lost begins nothing twice: the name of the track is ours.
    const about: Record<string, string> = {
      lecture: c.lecture,
      source: 'desk',
      filetype: c.mediaType,
      track: c.id,
      age_ms: String(Math.min(2_000_000_000, Math.max(0, Math.round(this.age())))),
    }
    if (c.alone) about.alone = 'yes'
    if (c.beside) Object.assign(about, { beside: c.beside, lag_ms: String(Math.max(0, Math.round(c.lag ?? 0))) })
    const metadata = Object.entries(about)
    const answer = await this.call('/api/append', {
      method: 'POST',
      headers: {
        ...tus,
        'Upload-Defer-Length': '1',
        'Upload-Metadata': metadata.map(([k, v]) => `${k} ${encode(v)}`).join(','),
      },
    })
    c.track = answer.headers.get('Location') ?? undefined
    c.recording = answer.headers.get('Late-Lantern-Recording') ?? undefined
    await keepCapture({ ...c })
    this.report({ reached: true, finished: false })
  }

  private async append(blob: Blob, total?: number): Promise<void> {
    const headers: Record<string, string> = {
      ...tus,
      'Content-Type': 'application/offset+octet-stream',
      'Upload-Offset': String(this.offset),
    }
    if (total !== undefined) headers['Upload-Length'] = String(total)
    const answer = await this.call(this.capture.track!, { method: 'PATCH', headers, body: blob })
    this.offset = Number(answer.headers.get('Upload-Offset'))
  }

  /** align asks how much the server has. */
  private async align(): Promise<void> {
    if (!this.capture.track) return
    const answer = await this.call(this.capture.track, { method: 'HEAD', headers: tus })
    this.offset = Number(answer.headers.get('Upload-Offset'))
  }
}

/** lockName is held by whoever sends a capture, so that no two pages do. */
export const lockName = (capture: string) => `late-lantern-capture-${capture}`

/** resumeUnsent sends what captures that were interrupted left on this computer: a page that was closed, a browser that ended. */
export async function resumeUnsent(tell: (p: Progress) => void = () => undefined): Promise<void> {
  for (const c of await captures()) {
    void navigator.locks.request(lockName(c.id), { ifAvailable: true }, async (lock) => {
      if (!lock) return // its own page is at work
      if (c.total === undefined) {
        const end = await endOfPieces(c.id)
        const sent = end ?? (await storedLength(c))
        if (!c.beside) noteBroken(c)
        if (sent === undefined) return forget(c.id)
        c.total = sent
        await keepCapture({ ...c })
      }
      await new Sender(c, tell).run()
    })
  }
}

/** A capture that broke off on this computer. It is remembered for as long as another may go on with its recording. */
export interface Broken {
  id: string
  lecture: string
  began: number
  /** When it was found. */
  at: number
}

const brokenKey = 'late-lantern-broken'
const goesOn = 4 * 3_600_000

export function brokenCaptures(): Broken[] {
  try {
    const all = JSON.parse(localStorage.getItem(brokenKey) ?? '[]') as Broken[]
    return all.filter((b) => Date.now() - b.at < goesOn)
  } catch {
    return []
  }
}

const noteBroken = (c: Kept) =>
  localStorage.setItem(
    brokenKey,
    JSON.stringify([...brokenCaptures(), { id: c.id, lecture: c.lecture, began: c.began, at: Date.now() }]),
  )

/** forgetBroken is for when the capture of a lecture has gone on. */
export const forgetBroken = (lecture: string) =>
  localStorage.setItem(brokenKey, JSON.stringify(brokenCaptures().filter((b) => b.lecture !== lecture)))

/** storedLength is how much the server has of a capture of which nothing is left here. */
async function storedLength(c: Kept): Promise<number | undefined> {
  if (!c.track) return undefined
  const answer = await fetch(c.track, { method: 'HEAD', headers: tus })
  return answer.ok ? Number(answer.headers.get('Upload-Offset')) : undefined
}
