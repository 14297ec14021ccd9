import type { Entry, PlaylistChange, PlaylistPage } from '../../api/playlists'

/** partsOf is from where to where the parts of the lecture stand of which the entry at a place is one. */
const partsOf = (entries: Entry[], at: number) => {
  const e = entries[at]
  if (!e?.parts || !e.part) return [at, at + 1] as const
  const from = at - (e.part - 1)
  return [from, from + e.parts] as const
}

/**
 * stepBefore is the entry before which moved ones go by one step up or down: '' is the end, undefined that there is no
 * step. A lecture in several parts is one step.
 */
export function stepBefore(entries: Entry[], moved: string[], by: -1 | 1): string | undefined {
  const places = entries.flatMap((e, at) => (moved.includes(e.id) ? [at] : []))
  if (places.length === 0) return undefined
  if (by < 0) {
    const [from] = partsOf(entries, Math.min(...places))
    if (from === 0) return undefined
    const [to] = partsOf(entries, from - 1)
    return entries[to]!.id
  }
  const [, end] = partsOf(entries, Math.max(...places))
  if (end >= entries.length) return undefined
  const [, past] = partsOf(entries, end)
  return entries[past]?.id ?? ''
}

/** beforeBelow is the entry before which others go to be the last below a heading; '' is the top, without a heading. */
export function beforeBelow(entries: Entry[], moved: string[], heading: string): string | undefined {
  const from = heading === '' ? 0 : entries.findIndex((e) => e.id === heading) + 1
  return entries.slice(from).find((e) => e.heading !== undefined && !moved.includes(e.id))?.id
}

/**
 * backAt puts entries that were taken out back, the last first, each before what it stood before, where things are
 * moved.
 */
export async function backAt(
  was: Entry[],
  gone: Entry[],
  movable: boolean,
  make: (change: PlaylistChange) => Promise<PlaylistPage>,
): Promise<void> {
  const now = new Map<string, string>() // what came back, by what it was
  for (const entry of [...gone].reverse()) {
    const at = was.findIndex((e) => e.id === entry.id)
    const text = { title: entry.heading ?? entry.title, about: entry.about, address: entry.address }
    const page = await make(
      entry.recording_id
        ? { do: 'add', recordings: [entry.recording_id] }
        : entry.file
          ? { do: 'file again', file: entry.file.id, title: entry.title }
          : { do: entry.address ? 'page' : 'heading', text },
    )
    const known = new Set(was.map((e) => now.get(e.id) ?? e.id))
    const back = page.entries.find((e) =>
      entry.recording_id ? e.recording_id === entry.recording_id : !known.has(e.id) && !e.recording_id,
    )
    if (!back || !movable) continue
    now.set(entry.id, back.id)
    const there = new Set(page.entries.map((e) => e.id))
    const next = was
      .slice(at + 1)
      .map((e) => now.get(e.id) ?? e.id)
      .find((id) => there.has(id))
    await make({ do: 'move', entries: [back.id], before: next })
  }
}
