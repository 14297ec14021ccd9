/** What goes over the line to keep a capture: resumable append (tus 1.0: creation, deferred length). */
import { toProblem } from '../../api/client'
import type { Kept } from './keep'

const tus = { 'Tus-Resumable': '1.0.0' }

/** A server that does not answer for so long, in milliseconds, is as good as none. */
const patience = 20_000

const encode = (text: string) => btoa(String.fromCharCode(...new TextEncoder().encode(text)))

/** call throws a Problem for any answer that is not as it should be. */
async function call(path: string, init: RequestInit): Promise<Response> {
  const answer = await fetch(path, { ...init, signal: AbortSignal.timeout(patience) })
  if (!answer.ok) throw toProblem(answer.status, await answer.json().catch(() => undefined))
  return answer
}

const offsetOf = (answer: Response) => Number(answer.headers.get('Upload-Offset'))

/**
 * begin begins the track of a capture that began so many milliseconds ago. To ask again after an answer was lost
 * begins nothing twice: the name of the track is ours.
 */
export async function begin(c: Kept, age: number): Promise<Pick<Kept, 'track' | 'recording'>> {
  const about: Record<string, string> = {
    lecture: c.lecture,
    source: 'desk',
    filetype: c.mediaType,
    track: c.id,
    age_ms: String(Math.min(2_000_000_000, Math.max(0, Math.round(age)))),
  }
  if (c.alone) about.alone = 'yes'
  if (c.beside) Object.assign(about, { beside: c.beside, lag_ms: String(Math.max(0, Math.round(c.lag ?? 0))) })
  const answer = await call('/api/append', {
    method: 'POST',
    headers: {
      ...tus,
      'Upload-Defer-Length': '1',
      'Upload-Metadata': Object.entries(about)
        .map(([k, v]) => `${k} ${encode(v)}`)
        .join(','),
    },
  })
  return {
    track: answer.headers.get('Location') ?? undefined,
    recording: answer.headers.get('Late-Lantern-Recording') ?? undefined,
  }
}

/** append adds bytes at an offset, with the length of all of it once that is known, and gives how much is stored. */
export async function append(track: string, offset: number, blob: Blob, total?: number): Promise<number> {
  const headers: Record<string, string> = {
    ...tus,
    'Content-Type': 'application/offset+octet-stream',
    'Upload-Offset': String(offset),
  }
  if (total !== undefined) headers['Upload-Length'] = String(total)
  return offsetOf(await call(track, { method: 'PATCH', headers, body: blob }))
}

/** stored is how much the server has of a track. */
export const stored = async (track: string): Promise<number> =>
  offsetOf(await call(track, { method: 'HEAD', headers: tus }))
