/** Records one track into pieces of about a second, and keeps each before anything else is done with it. */
import { keepCapture, keepPiece, type Kept } from './keep'
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
export class Strand {
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
