/** A capture of the same lecture that broke off on this computer: what was left here is being sent. */
import { onScopeDispose, ref, type Ref } from 'vue'
import { captures } from './keep'
import { brokenCaptures, forgetBroken } from './broken'
import { resumeUnsent } from './unsent'

export interface Returned {
  id: string
  /** When it began, as the server writes times. */
  began: string
  /** Whether something of it is still only here. */
  left: boolean
}

/** useReturned lists what broke off, the newest first. Call goneOn when the capture goes on. */
export function useReturned(lecture: () => string): { returned: Ref<Returned[]>; goneOn: () => void } {
  const returned = ref<Returned[]>([])
  let gone = false

  async function look() {
    if (gone) return
    const there = new Set((await captures()).map((c) => c.id))
    returned.value = brokenCaptures()
      .filter((b) => b.lecture === lecture())
      .map((b) => ({ id: b.id, began: new Date(b.began).toISOString(), left: there.has(b.id) }))
      .reverse()
  }

  void resumeUnsent().then(look)
  const timer = window.setInterval(() => void look(), 1000)
  onScopeDispose(() => window.clearInterval(timer))
  return {
    returned,
    goneOn: () => {
      gone = true
      forgetBroken(lecture())
      returned.value = []
    },
  }
}
