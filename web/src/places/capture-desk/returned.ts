/** A capture of the same lecture that broke off on this computer: what was left here is being sent. */
import { onScopeDispose, ref, type Ref } from 'vue'
import { captures, endOfPieces } from './keep'
import { lockName, resumeUnsent } from './outbox'

export interface Returned {
  id: string
  /** When it began, as the server writes times. */
  began: string
  /** Bytes that are still only here. */
  left: number
}

/** useReturned lists what was there when the page came, with how much of it is left to send. */
export function useReturned(lecture: () => string): Ref<Returned[]> {
  const out = ref<Returned[]>([])
  let timer = 0

  async function look() {
    const there = new Map((await captures()).map((c) => [c.id, c]))
    for (const r of out.value) r.left = there.has(r.id) ? ((await endOfPieces(r.id)) ?? 0) : 0
    if (out.value.every((r) => r.left === 0)) window.clearInterval(timer)
  }

  async function begin(again: boolean) {
    const held = new Set((await navigator.locks.query()).held?.map((l) => l.name))
    let busy = false
    for (const c of await captures()) {
      if (c.lecture !== lecture() || c.beside) continue
      // One that another page is capturing now has its lock, and no end; one that is being sent has one soon.
      if (c.total === undefined && held.has(lockName(c.id))) busy = true
      else out.value.push({ id: c.id, began: new Date(c.began).toISOString(), left: 1 })
    }
    if (busy && out.value.length === 0 && again) timer = window.setTimeout(() => void begin(false), 1500)
    if (out.value.length === 0) return
    void resumeUnsent()
    timer = window.setInterval(() => void look(), 1000)
    await look()
  }

  void begin(true)
  onScopeDispose(() => window.clearInterval(timer))
  return out
}
