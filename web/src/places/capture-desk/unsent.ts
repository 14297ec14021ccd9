/** What captures that were interrupted left on this computer. */
import { Problem } from '../../api/client'
import { noteBroken } from './broken'
import { captures, endOfPieces, forget, keepCapture, type Kept } from './keep'
import { Sender, type Progress } from './sender'
import { stored } from './wire'

/** lockName is held by whoever sends a capture, so that no two pages do. */
export const lockName = (capture: string) => `late-lantern-capture-${capture}`

/**
 * resumeUnsent sends what captures that were interrupted left on this computer: a page that was closed, a browser
 * that ended.
 */
export async function resumeUnsent(tell: (p: Progress) => void = () => undefined): Promise<void> {
  for (const c of await captures()) {
    void navigator.locks
      .request(lockName(c.id), { ifAvailable: true }, async (lock) => {
        if (!lock) return // its own page is at work
        if (c.total === undefined) {
          const end = await endOfPieces(c.id)
          // Of a capture of which nothing is left here, what the server has is all of it.
          const sent = end ?? (await storedOf(c))
          if (!c.beside) noteBroken(c)
          if (sent === undefined) return forget(c.id)
          c.total = sent
          await keepCapture({ ...c })
        }
        await new Sender(c, tell).run()
      })
      .catch(() => undefined) // the next page tries again
  }
}

/** storedOf is how much the server has of a capture, if it knows of it. It throws where that cannot be said now. */
async function storedOf(c: Kept): Promise<number | undefined> {
  try {
    return c.track ? await stored(c.track) : undefined
  } catch (e) {
    if (e instanceof Problem && (e.status === 404 || e.status === 403)) return undefined
    throw e
  }
}
