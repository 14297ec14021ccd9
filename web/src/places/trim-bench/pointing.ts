import { computed, ref, type Ref } from 'vue'
import type { Stretch } from '../../parts/kept'
import { both } from './selecting'

/** What is told of what was done with the pointer; all moments are milliseconds of the recording. */
interface Told {
  seek: (ms: number) => void
  select: (s: Stretch | undefined) => void
  strike: (s: Stretch) => void
  restore: (s: Stretch) => void
  /** Select what lies between two pauses around a moment. */
  pauses: (ms: number) => void
}

/** How near, in pixels, an edge of what is struck is gripped. */
const nearEdge = 7

/**
 * usePointing is the pointer on a page of lines: it selects by dragging like text, over line ends too, seeks where it
 * only presses, and moves the edges of what is struck. shown is what is struck as it stands while an edge moves.
 */
export function usePointing(
  page: Ref<HTMLElement | undefined>,
  lines: Ref<Stretch[]>,
  of: { length: number; struck: Stretch[]; selection: Stretch | undefined },
  told: Told,
) {
  /** An edge of a struck stretch that is being moved: the stretch, which edge, and where it is now. */
  const grip = ref<{ stretch: Stretch; edge: 'start' | 'end'; at: number }>()
  const shown = computed(() =>
    of.struck.map((s) =>
      grip.value && s.start === grip.value.stretch.start ? { ...s, [grip.value.edge]: grip.value.at } : s,
    ),
  )

  let anchor = 0
  let down: { x: number; y: number; moved: boolean } | undefined
  /** The pointer is near an edge that can be gripped. */
  const atEdge = ref(false)

  function momentAt(e: PointerEvent): number {
    const bands = [...(page.value?.querySelectorAll<HTMLElement>('[data-band]') ?? [])]
    let best = bands[0]
    let gap = Infinity
    for (const b of bands) {
      const r = b.getBoundingClientRect()
      const d = e.clientY < r.top ? r.top - e.clientY : Math.max(0, e.clientY - r.bottom)
      if (d < gap) [gap, best] = [d, b]
    }
    const line = lines.value[best ? bands.indexOf(best) : 0]
    if (!best || !line) return 0
    const r = best.getBoundingClientRect()
    const share = Math.min(1, Math.max(0, (e.clientX - r.left) / r.width))
    return Math.min(of.length, Math.round(line.start + (line.end - line.start) * share))
  }

  function edgeNear(at: number): typeof grip.value {
    const band = page.value?.querySelector<HTMLElement>('[data-band]')
    const line = lines.value[0]
    if (!band || !line) return undefined
    const reach = (nearEdge / band.getBoundingClientRect().width) * (line.end - line.start)
    for (const stretch of of.struck) {
      if (Math.abs(stretch.start - at) < reach && stretch.start > 0)
        return { stretch, edge: 'start', at: stretch.start }
      if (Math.abs(stretch.end - at) < reach && stretch.end < of.length)
        return { stretch, edge: 'end', at: stretch.end }
    }
    return undefined
  }

  /** What was pressed on that stands for a stretch: a slide, or a word. */
  function stretchAt(e: PointerEvent): Stretch | undefined {
    const it = (e.target as Element).closest<HTMLElement>('[data-start]')
    return it ? { start: Number(it.dataset.start), end: Number(it.dataset.end) } : undefined
  }

  /** Twice selects more: all that is said in a line of words, or what lies between two pauses. */
  function twice(e: MouseEvent) {
    const target = e.target as Element
    const words = target.closest<HTMLElement>('[data-line-start]')
    if (words) told.select({ start: Number(words.dataset.lineStart), end: Number(words.dataset.lineEnd) })
    else if (target.closest('[data-band]')) told.pauses(anchor)
  }

  let from: Stretch | undefined // a slide or a word with which a selection began

  function press(e: PointerEvent) {
    if (e.button !== 0) return
    from = stretchAt(e)
    if (from) {
      // With shift, what is selected already grows.
      told.select(e.shiftKey && of.selection ? both(of.selection, from) : from)
      e.preventDefault()
      return
    }
    if (!(e.target as Element).closest('[data-band]')) return
    page.value?.setPointerCapture(e.pointerId)
    anchor = momentAt(e)
    down = { x: e.clientX, y: e.clientY, moved: false }
    grip.value = edgeNear(anchor)
  }

  function drag(e: PointerEvent) {
    if (from) {
      const to = e.buttons === 1 ? stretchAt(e) : undefined
      if (to) told.select(both(from, to))
      return
    }
    if (!down) {
      atEdge.value = edgeNear(momentAt(e)) !== undefined
      return
    }
    if (Math.hypot(e.clientX - down.x, e.clientY - down.y) > 3) down.moved = true
    if (!down.moved) return
    const at = momentAt(e)
    const g = grip.value
    if (g) g.at = g.edge === 'start' ? Math.min(at, g.stretch.end - 200) : Math.max(at, g.stretch.start + 200)
    else told.select({ start: Math.min(anchor, at), end: Math.max(anchor, at) })
  }

  function release() {
    from = undefined
    if (!down) return
    const g = grip.value
    if (g && down.moved) {
      const moved = { start: Math.min(g.at, g.stretch[g.edge]), end: Math.max(g.at, g.stretch[g.edge]) }
      const larger = g.edge === 'start' ? g.at < g.stretch.start : g.at > g.stretch.end
      if (moved.end > moved.start) {
        if (larger) told.strike(moved)
        else told.restore(moved)
      }
    } else if (!down.moved) {
      told.select(undefined)
      told.seek(anchor)
    }
    grip.value = undefined
    down = undefined
  }
  return { shown, atEdge, press, drag, release, twice }
}
