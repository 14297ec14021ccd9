/** What can be told of a picture by looking at it. */
import { reactive } from 'vue'

/** A camera always flickers a little: when not one dot of its picture changes for so long, it is frozen. In ms. */
const frozenAfter = 6000

/** Look measures one picture, each time it is asked to. */
export class Look {
  private readonly pen: CanvasRenderingContext2D | null
  private before: Uint8ClampedArray | undefined
  private changed = Date.now()
  readonly found = reactive({ none: true, black: false, frozen: false })

  constructor(
    private readonly video: () => HTMLVideoElement | undefined,
    private readonly flickers: boolean,
  ) {
    const canvas = document.createElement('canvas')
    canvas.width = 64
    canvas.height = 36
    this.pen = canvas.getContext('2d', { willReadFrequently: true })
  }

  look(): void {
    const v = this.video()
    if (!document.hidden) this.found.none = !v || v.videoWidth === 0
    if (!v || !this.pen || v.videoWidth === 0 || document.hidden) {
      this.changed = Date.now()
      return
    }
    this.pen.drawImage(v, 0, 0, 64, 36)
    const d = this.pen.getImageData(0, 0, 64, 36).data
    let brightest = 0
    let same = this.before !== undefined
    for (let i = 0; i < d.length; i += 4) {
      brightest = Math.max(brightest, d[i]!, d[i + 1]!, d[i + 2]!)
      if (same && (d[i] !== this.before![i] || d[i + 1] !== this.before![i + 1])) same = false
    }
    this.before = d
    if (!same) this.changed = Date.now()
    this.found.black = brightest < 16
    this.found.frozen = this.flickers && Date.now() - this.changed > frozenAfter
  }
}
