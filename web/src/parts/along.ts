import type { Stretch } from './kept'

/** What stands along a lecture, in milliseconds of what plays. */
export interface Along {
  attended?: Stretch[]
  missed?: Stretch[]
  watched?: Stretch[]
  chapters: { at: number; title: string }[]
  slides: { at: number; picture: string }[]
}

/** standing is what stands at a moment, of things each of which stands until the next. */
export const standing = <T extends { at: number }>(all: readonly T[], at: number): T | undefined =>
  all.findLast((x) => x.at <= at + 100)
