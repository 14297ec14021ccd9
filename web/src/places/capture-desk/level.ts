/**
 * Mixes what is heard into one sound that goes on whatever becomes of its sources, and measures each from its
 * samples.
 */
export interface Level {
  /** dB below full scale, of the last sixth of a second. */
  rms: number
  peak: number
}

export const silence: Level = { rms: -Infinity, peak: -Infinity }

const db = (x: number) => 20 * Math.log10(Math.max(x, 1e-6))

/** Input is one source of the mix. */
export class Input {
  private readonly gain: GainNode
  private readonly analyser: AnalyserNode
  private readonly samples: Float32Array<ArrayBuffer>
  private node: MediaStreamAudioSourceNode | undefined

  constructor(
    private readonly context: AudioContext,
    out: AudioNode,
  ) {
    this.gain = context.createGain()
    this.analyser = context.createAnalyser()
    this.analyser.fftSize = 8192 // a sixth of a second
    this.samples = new Float32Array(this.analyser.fftSize)
    this.gain.connect(this.analyser)
    this.gain.connect(out)
  }

  /** from takes the sound from a stream, or from none. */
  from(stream: MediaStream | undefined): void {
    this.node?.disconnect()
    this.node = undefined
    if (stream && stream.getAudioTracks().length > 0) {
      this.node = this.context.createMediaStreamSource(stream)
      this.node.connect(this.gain)
    }
  }

  /** strength is what the sound is multiplied by: 0 to 2. */
  set strength(x: number) {
    this.gain.gain.value = x
  }

  hear(): Level {
    if (!this.node) return silence
    this.analyser.getFloatTimeDomainData(this.samples)
    let sum = 0
    let peak = 0
    for (const v of this.samples) {
      sum += v * v
      peak = Math.max(peak, Math.abs(v))
    }
    return { rms: db(Math.sqrt(sum / this.samples.length)), peak: db(peak) }
  }
}

export class Mixer {
  private readonly context = new AudioContext({ sampleRate: 48_000 })
  private readonly out = this.context.createMediaStreamDestination()
  readonly microphone = new Input(this.context, this.out)
  readonly computer = new Input(this.context, this.out)

  constructor() {
    void this.context.resume()
  }

  /** wake is for after the first press on the page: before it a browser may keep the mix silent. */
  wake(): void {
    void this.context.resume()
  }

  get stream(): MediaStream {
    return this.out.stream
  }

  close(): void {
    void this.context.close()
  }
}

/** Limits of the checks, in dB. */
export const heard = -45
export const tooQuiet = -34
export const clipping = -0.3
