/** Records a stream into pieces of about a second and keeps each before anything else is done with it. */
import { keepCapture, keepPiece, type Kept } from './keep'
import { lockName, Sender, type Progress } from './outbox'

/** In order of how little work they leave to the server: what is H.264 already needs no encoding. */
const types = [
  'video/x-matroska;codecs=avc1,opus',
  'video/webm;codecs=h264,opus',
  'video/webm;codecs=vp9,opus',
  'video/webm;codecs=vp8,opus',
  'video/webm',
]
const soundTypes = ['audio/webm;codecs=opus', 'audio/webm']

/** The recorder may start late; after this long without a byte something is wrong. */
const noDataAfter = 8000

export interface Capturing {
  elapsed: number
  progress: Progress
  /** The recorder gives nothing, or cannot go on. */
  silent: boolean
}

/** keyFrames is asked for so that the server can cut segments of two seconds. */
interface RecorderOptions extends MediaRecorderOptions {
  videoKeyFrameIntervalDuration?: number
}

export class Recorder {
  private readonly recorder: MediaRecorder
  private readonly capture: Kept
  private readonly sender: Sender
  private readonly began = performance.now()
  private length = 0
  private lastData = performance.now()
  private writing: Promise<void> = Promise.resolve()
  private progress: Progress = { offset: 0, safe: 0, reached: true, finished: false }
  private ended: number | undefined
  private release: (() => void) | undefined
  private readonly sent: Promise<boolean>
  /** Why pieces can no longer be kept here. */
  keepFault: unknown

  constructor(stream: MediaStream, lecture: string) {
    const pictures = stream.getVideoTracks().length > 0
    const mimeType = (pictures ? types : soundTypes).find((x) => MediaRecorder.isTypeSupported(x)) ?? ''
    this.capture = { id: crypto.randomUUID(), lecture, mediaType: mimeType }
    const options: RecorderOptions = {
      mimeType,
      videoBitsPerSecond: 2_500_000,
      audioBitsPerSecond: 128_000,
      videoKeyFrameIntervalDuration: 2000,
    }
    this.recorder = new MediaRecorder(stream, options)
    this.sender = new Sender(this.capture, (p) => (this.progress = p))
    void navigator.locks.request(lockName(this.capture.id), () => new Promise<void>((done) => (this.release = done)))
    this.recorder.ondataavailable = (e) => this.keep(e.data)
    this.writing = keepCapture({ ...this.capture })
    this.recorder.start(1000)
    this.sent = this.writing.then(() => this.sender.run())
  }

  private keep(data: Blob): void {
    if (data.size === 0) return
    this.lastData = performance.now()
    const until = this.lastData - this.began
    this.writing = this.writing
      .then(async () => {
        const bytes = await data.arrayBuffer()
        await keepPiece({ capture: this.capture.id, offset: this.length, bytes, until })
        this.length += bytes.byteLength
        this.sender.poke()
      })
      .catch((e: unknown) => {
        this.keepFault ??= e
      })
  }

  state(): Capturing {
    const now = performance.now()
    return {
      elapsed: (this.ended ?? now) - this.began,
      progress: this.progress,
      silent: this.ended === undefined && now - this.lastData > noDataAfter,
    }
  }

  /** stop ends the capture. It resolves when every byte is on the disk of the server, to whether that is so. */
  async stop(): Promise<boolean> {
    if (this.ended === undefined) {
      this.ended = performance.now()
      const last = new Promise<void>((done) => this.recorder.addEventListener('stop', () => done(), { once: true }))
      if (this.recorder.state !== 'inactive') {
        this.recorder.stop()
        await last
      }
      await this.writing
      this.capture.total = this.length
      await keepCapture({ ...this.capture })
      this.sender.poke()
    }
    const all = await this.sent
    this.release?.()
    return all
  }

  get recording(): string | undefined {
    return this.progress.recording
  }
}
