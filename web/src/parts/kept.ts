/**
 * Translates between the clock of what plays and the clock of what is kept of it. Stretches are sorted, in
 * milliseconds.
 */
export interface Stretch {
  start: number
  end: number
}

export const lengthOf = (kept: readonly Stretch[]): number => kept.reduce((sum, k) => sum + k.end - k.start, 0)

/** toKept is how much of what is kept lies before the source moment. */
export const toKept = (kept: readonly Stretch[], source: number): number =>
  kept.reduce((sum, k) => sum + Math.max(0, Math.min(source, k.end) - k.start), 0)

/** toSource is the source moment at which so much of what is kept has passed. */
export function toSource(kept: readonly Stretch[], at: number): number {
  for (const k of kept) {
    if (at < k.end - k.start) return k.start + Math.max(0, at)
    at -= k.end - k.start
  }
  return kept[kept.length - 1]?.end ?? 0
}

/** jump is where to go on from a moment that is not kept; undefined when it is kept, or nothing kept follows. */
export function jump(kept: readonly Stretch[], source: number): number | undefined {
  const next = kept.find((k) => k.end > source)
  return next && source < next.start ? next.start : undefined
}
