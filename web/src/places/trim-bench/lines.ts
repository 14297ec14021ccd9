/** Lays a lecture out as lines of a page: as many minutes to a line as let the whole be seen at once. */
import type { Stretch } from '../../parts/kept'

/** Lengths of a line, in milliseconds, that are easy to read off. */
const steps = [10, 15, 20, 30, 60, 120, 180, 300, 600, 900, 1200, 1800].map((s) => s * 1000)
const most = 6.5

/** fitting is the length of a line with which all of a lecture stands on one page. */
export const fitting = (length: number): number => steps.find((s) => length / s <= most) ?? steps[steps.length - 1]!

/** zoomed is a shorter (1) or longer (-1) line than one, never longer than what fits. */
export function zoomed(length: number, step: number, by: -1 | 1): number {
  const n = Math.max(0, Math.min(steps.indexOf(fitting(length)), steps.indexOf(step) - by))
  return steps[n]!
}

export interface Line extends Stretch {
  /** Share of a full line that the last line has. */
  share: number
}

export function linesOf(length: number, step: number): Line[] {
  const out: Line[] = []
  for (let start = 0; start < length || out.length === 0; start += step) {
    const end = Math.min(length, start + step)
    out.push({ start, end: start + step, share: (end - start) / step })
  }
  return out
}

/** percent is where a moment lies on a line, in per cent of its width. */
export const percent = (line: Stretch, at: number): number => ((at - line.start) / (line.end - line.start)) * 100

/** part is what of a stretch lies on a line; undefined when nothing does. */
export function part(line: Stretch, s: Stretch): Stretch | undefined {
  const start = Math.max(line.start, s.start)
  const end = Math.min(line.end, s.end)
  return start < end ? { start, end } : undefined
}

/** band draws the peaks of a line as one path, `columns` wide, around y = 20. */
export function band(peaks: Uint8Array, window: number, line: Stretch, columns: number): string {
  let d = ''
  for (let c = 0; c < columns; c++) {
    const from = Math.floor((line.start + ((line.end - line.start) * c) / columns) / window)
    const to = Math.max(from + 1, Math.floor((line.start + ((line.end - line.start) * (c + 1)) / columns) / window))
    if (from >= peaks.length) break
    let top = 0
    for (let i = from; i < to && i < peaks.length; i++) top = Math.max(top, peaks[i]!)
    const h = 0.8 + (top / 255) * 18.5
    d += `M${c} ${(20 - h).toFixed(1)}V${(20 + h).toFixed(1)}`
  }
  return d
}

/** decode reads the peaks as the server sends them. */
export const decode = (base64: string): Uint8Array => Uint8Array.from(atob(base64), (c) => c.charCodeAt(0))

/**
 * withRoom keeps those of a sorted list, of which each stands at a percentage of a line so many pixels wide, that have
 * room beside the one before.
 */
export function withRoom<T>(all: T[], at: (x: T) => number, room: number, width: number): T[] {
  let next = -Infinity
  return all.filter((x) => {
    const px = (at(x) / 100) * width
    if (px < next) return false
    next = px + room
    return true
  })
}
