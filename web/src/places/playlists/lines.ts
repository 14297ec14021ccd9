import type { Entry, PlaylistPage } from '../../api/playlists'

type Gap = PlaylistPage['gaps'][number]
export type Line = { key: string } & ({ entry: Entry } | { gap: Gap } | { week: number })

/** linesOf are the lines of a playlist: entries, missing lectures where they would stand, and by week its heads. */
export function linesOf(page: PlaylistPage): Line[] {
  const out: Line[] = []
  const gaps = [...page.gaps]
  const weekly = page.list.arranged === 'week'
  let head = 0
  const below = (week: number) => {
    if (weekly && week !== head) out.push({ key: `w${week}`, week: (head = week) })
  }
  const missing = (gap: Gap) => {
    below(gap.week)
    out.push({ key: gap.lecture_id, gap })
  }
  for (const entry of page.entries) {
    const week = entry.recording_id && !entry.from ? entry.week : 0
    while (week > 0 && gaps[0] && gaps[0].week < week) missing(gaps.shift()!)
    if (entry.week > 0) below(entry.week)
    out.push({ key: entry.id, entry })
  }
  gaps.forEach(missing)
  return out
}
