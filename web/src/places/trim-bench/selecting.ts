/** What can be selected at once: a slide, the words of a line, or what lies between two pauses. */
import type { Schemas } from '../../api/client'
import type { Stretch } from '../../parts/kept'

export type Part = 'slide' | 'words' | 'pauses'

/** partAt is the stretch of a kind that holds a moment; undefined when there is none. */
export function partAt(strip: Schemas['StripPage'], length: number, what: Part, at: number): Stretch | undefined {
  switch (what) {
    case 'slide': {
      const n = strip.slides.findLastIndex((s) => s.at <= at)
      return n < 0 ? undefined : { start: strip.slides[n]!.at, end: strip.slides[n + 1]?.at ?? length }
    }
    case 'words': {
      const c = strip.cues.find((x) => x.start <= at && at < x.end)
      return c && { start: c.start, end: c.end }
    }
    case 'pauses': {
      const middle = (s: Stretch) => Math.round((s.start + s.end) / 2)
      const before = strip.pauses.findLast((s) => middle(s) <= at)
      const after = strip.pauses.find((s) => middle(s) > at)
      return { start: before ? middle(before) : 0, end: after ? middle(after) : length }
    }
  }
}

/** both is the stretch from the earlier beginning to the later end. */
export const both = (a: Stretch, b: Stretch): Stretch => ({
  start: Math.min(a.start, b.start),
  end: Math.max(a.end, b.end),
})
