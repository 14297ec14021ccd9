/**
 * A feed is a picture that goes on whatever becomes of its source: the source can be exchanged
 * or end, only a frame of it may be let through, and its size stays what it was when the
 * capture began. Where nothing new comes, the last picture stands still.
 */

/** What of a picture is let through, as shares of its width and height. */
export interface Frame {
  x: number
  y: number
  width: number
  height: number
}

/** These two are not in the standard library of TypeScript. */
interface Processor {
  readable: ReadableStream<VideoFrame>
}
interface Generator extends MediaStreamTrack {
  writable: WritableStream<VideoFrame>
}
interface Insertable {
  MediaStreamTrackProcessor?: new (o: { track: MediaStreamTrack; maxBufferSize?: number }) => Processor
  MediaStreamTrackGenerator?: new (o: { kind: 'video' }) => Generator
}
const insertable = window as unknown as Insertable

/** Whether this browser lets a page at the pictures. Without it a source is captured as it is. */
export const canFrame = insertable.MediaStreamTrackProcessor !== undefined

const largest = { width: 1920, height: 1080 }
const even = (n: number) => Math.max(2, Math.round(n / 2) * 2)

/** After so long without a new picture the last one is given again, in milliseconds. */
const still = 500

export class Feed {
  private readonly generator: Generator | undefined
  private readonly writer: WritableStreamDefaultWriter<VideoFrame> | undefined
  private readonly canvas = new OffscreenCanvas(2, 2)
  private readonly pen = this.canvas.getContext('2d', { alpha: false })
  private source: MediaStreamTrack | undefined
  private reader: ReadableStreamDefaultReader<VideoFrame> | undefined
  private fixed: { width: number; height: number } | undefined
  private last = 0
  /** The newest picture of the source, which may be the only one for a long time. */
  private newest: VideoFrame | undefined
  /** A screen on which nothing moves may give its one picture before anyone reads it; a player asks for it again. */
  private readonly eye = document.createElement('video')
  private closed = false
  private readonly timer: number
  /** Only this much of the source is let through. */
  frame: Frame | undefined

  constructor() {
    if (insertable.MediaStreamTrackGenerator) {
      this.generator = new insertable.MediaStreamTrackGenerator({ kind: 'video' })
      this.writer = this.generator.writable.getWriter()
    }
    this.timer = window.setInterval(() => this.hold(), still)
  }

  /** The picture to capture; undefined while there is none. */
  get track(): MediaStreamTrack | undefined {
    return this.generator ?? this.source
  }

  /** from takes the pictures from a source, or from none. */
  from(track: MediaStreamTrack | undefined): void {
    this.leave()
    this.source = track
    this.eye.muted = true
    this.eye.srcObject = track ? new MediaStream([track]) : null
    if (track) void this.eye.play().catch(() => undefined)
    if (track && insertable.MediaStreamTrackProcessor && this.writer) {
      const reader = new insertable.MediaStreamTrackProcessor({ track, maxBufferSize: 2 }).readable.getReader()
      this.reader = reader
      void this.run(reader)
    }
  }

  /** fix has every picture from now on be of the size that the next one has. */
  fix(): void {
    this.fixed = undefined
  }

  /**
   * leave has the reading of a source end with its next picture, which is closed, or with its track. It is not
   * cancelled while a picture is on its way: that one would be nobody's.
   */
  private leave(): void {
    this.reader = undefined
  }

  private async run(reader: ReadableStreamDefaultReader<VideoFrame>): Promise<void> {
    for (;;) {
      const { value, done } = await reader.read().catch(() => ({ value: undefined, done: true }))
      if (done || !value) return value?.close()
      if (this.closed || this.reader !== reader) {
        value.close()
        return void reader.cancel().catch(() => undefined)
      }
      this.newest?.close()
      this.newest = value
      await this.give()
    }
  }

  private draw(f: VideoFrame): void {
    const whole = f.visibleRect ?? { x: 0, y: 0, width: f.codedWidth, height: f.codedHeight }
    const cut = this.frame ?? { x: 0, y: 0, width: 1, height: 1 }
    const from = {
      x: cut.x * whole.width,
      y: cut.y * whole.height,
      width: Math.max(2, cut.width * whole.width),
      height: Math.max(2, cut.height * whole.height),
    }
    if (!this.fixed) {
      const scale = Math.min(1, largest.width / from.width, largest.height / from.height)
      this.fixed = { width: even(from.width * scale), height: even(from.height * scale) }
      this.canvas.width = this.fixed.width
      this.canvas.height = this.fixed.height
    }
    const { width, height } = this.fixed
    const scale = Math.min(width / from.width, height / from.height)
    const to = { width: from.width * scale, height: from.height * scale }
    if (!this.pen) return
    this.pen.fillRect(0, 0, width, height)
    const at = { x: (width - to.width) / 2, y: (height - to.height) / 2 }
    this.pen.drawImage(f, from.x, from.y, from.width, from.height, at.x, at.y, to.width, to.height)
  }

  private async give(): Promise<void> {
    if (!this.writer || !this.newest) return
    this.draw(this.newest)
    this.last = performance.now()
    const picture = new VideoFrame(this.canvas, { timestamp: Math.round(this.last * 1000), alpha: 'discard' })
    try {
      await this.writer.write(picture)
    } catch {
      this.close()
    } finally {
      picture.close() // whoever took it has closed it already; what was not taken is nobody's
    }
  }

  private hold(): void {
    if (!this.newest && !this.closed && this.source && this.eye.videoWidth > 0) {
      this.newest = new VideoFrame(this.eye, { timestamp: Math.round(performance.now() * 1000) })
    }
    if (!this.closed && performance.now() - this.last >= still) void this.give()
  }

  close(): void {
    this.closed = true
    window.clearInterval(this.timer)
    this.leave()
    this.newest?.close()
    this.newest = undefined
    this.eye.srcObject = null
    this.generator?.stop()
  }
}
