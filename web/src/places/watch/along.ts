import { computed } from 'vue'
import type { Schemas } from '../../api/client'
import type { Along } from '../../parts/along'
import type { Stretch } from '../../parts/kept'

/**
 * useAlong is what stands along what plays (what is watched now is added as one goes), which missed stretch comes next,
 * and how one gets to another chapter.
 */
export function useAlong(
  page: () => Schemas['Watch'] | undefined,
  at: () => number,
  now: () => Stretch[],
  seek: (ms: number) => void,
) {
  const along = computed((): Along | undefined => {
    const p = page()
    if (!p || p.live) return undefined
    const { attended, missed, watched } = p.account ?? {}
    const open = p.account?.known ? [] : missed
    return {
      attended,
      missed: open,
      watched: [...(watched ?? []), ...now()],
      chapters: p.chapters,
      slides: p.slides,
    }
  })
  /** The missed stretch that comes next, after the last the first; none while one is in the only one. */
  const nextMissed = computed(() => {
    const all = along.value?.missed ?? []
    return all.find((s) => s.start > at() + 1000) ?? all.find((s) => at() >= s.end)
  })

  function toChapter(by: number) {
    const all = page()?.chapters ?? []
    const now = all.findLastIndex((c) => c.at <= at() + 100)
    // Back goes to the beginning of this one first, but just after it to the one before.
    const back = by < 0 && at() - (all[now]?.at ?? 0) > 3000 ? 0 : by
    const to = all[Math.max(0, now + back)]
    if (to) seek(to.at)
  }
  return { along, nextMissed, toChapter }
}
