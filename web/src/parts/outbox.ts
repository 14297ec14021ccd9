/** What the server does not have yet waits in this browser until it has it, in order, each once. */
import { useStorage } from '@vueuse/core'
import { Problem } from '../api/client'

export interface Unsent {
  id: string
  /** Who it is of: of nobody else it is sent. */
  person: string
  when: number
}

/** lasts reports whether it can be told later what could not be told now. */
const lasts = (e: unknown): e is Problem =>
  e instanceof Problem && (e.status === 0 || e.status === 401 || e.status === 429 || e.status >= 500)

/** outbox keeps what waits under a name; tell sends one of it. Of more than most the oldest go. */
export function outbox<T extends Unsent>(name: string, tell: (entry: T) => Promise<unknown>, most: number) {
  const waiting = useStorage<T[]>(name, [], undefined, { flush: 'sync' })
  let sending = false

  const add = (entry: T) => (waiting.value = [...waiting.value, entry].slice(-most))
  const drop = (id: string) => (waiting.value = waiting.value.filter((w) => w.id !== id))

  /**
   * send tells the server what of a person waits, one after the other, and gives whether it took any; refused hears of
   * what it does not take, and held of what it does not take yet.
   */
  async function send(
    person: string,
    refused: (e: unknown, entry: T) => void = () => undefined,
    held: (e: Problem) => void = () => undefined,
  ): Promise<boolean> {
    if (sending) return false
    sending = true
    let some = false
    try {
      for (;;) {
        const next = waiting.value.find((w) => w.person === person)
        if (!next) return some
        try {
          await tell(next)
          some = true
        } catch (e) {
          if (lasts(e)) {
            held(e)
            return some
          }
          refused(e, next)
        }
        drop(next.id)
      }
    } finally {
      sending = false
    }
  }
  return { waiting, add, send }
}
