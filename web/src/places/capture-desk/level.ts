/** Measures how loud the microphone is, from the samples themselves. */
export interface Level {
  /** dB below full scale, of the last tenth of a second. */
  rms: number
  peak: number
}

export const silence: Level = { rms: -Infinity, peak: -Infinity }

const db = (x: number) => 20 * Math.log10(Math.max(x, 1e-6))

export class Ear {
  private readonly context = new AudioContext()
  private readonly analyser = this.context.createAnalyser()
  private readonly samples: Float32Array<ArrayBuffer>

  constructor(stream: MediaStream) {
    this.analyser.fftSize = 8192 // a sixth of a second
    this.samples = new Float32Array(this.analyser.fftSize)
    this.context.createMediaStreamSource(stream).connect(this.analyser)
    void this.context.resume()
  }

  hear(): Level {
    this.analyser.getFloatTimeDomainData(this.samples)
    let sum = 0
    let peak = 0
    for (const v of this.samples) {
      sum += v * v
      peak = Math.max(peak, Math.abs(v))
    }
    return { rms: db(Math.sqrt(sum / this.samples.length)), peak: db(peak) }
  }

  close(): void {
    void this.context.close()
  }
}

/** Limits of the checks, in dB. */
export const heard = -45
export const tooQuiet = -34
export const clipping = -0.3
