import { Problem, toProblem } from './client'
import type { ListOf, PlaylistPage } from './playlists'

/** A file that is put into a playlist, and whom to tell how much of it is sent, from 0 to 1. */
export interface Sent {
  file: File
  told: (share: number) => void
  stop: AbortSignal
}

/** What browsers offer to choose from; the server looks at the bytes. */
export const handoutKinds =
  '.pdf,.odp,.odt,.ods,.odg,.pptx,.docx,.xlsx,.ppt,.doc,.xls,.rtf,.epub,.png,.jpg,.jpeg,.webp,.gif,.txt,.md,.csv,.zip'

/** handoutAt is where a file that stands in a playlist of a course is fetched. */
export const handoutAt = (course: string, file: string) => `/api/courses/${course}/playlist/files/${file}`

/** sendHandout puts a file at the end of a playlist. Stopped it is a problem of kind `stopped`. */
export function sendHandout(l: ListOf, { file, told, stop }: Sent): Promise<PlaylistPage> {
  const query = new URLSearchParams({ name: file.name, ...(l.list && { list: l.list }) })
  return new Promise((done, failed) => {
    // fetch does not tell how much was sent.
    const call = new XMLHttpRequest()
    call.open('POST', `/api/courses/${l.course}/playlist/files?${query}`)
    call.setRequestHeader('Content-Type', 'application/octet-stream')
    call.responseType = 'json'
    call.upload.onprogress = (e) => told(e.total > 0 ? e.loaded / e.total : 0)
    call.onload = () =>
      call.status === 200 ? done(call.response as PlaylistPage) : failed(toProblem(call.status, call.response))
    call.onerror = () => failed(new Problem(0, 'unreachable'))
    const leave = () => {
      call.abort()
      failed(new Problem(0, 'stopped'))
    }
    stop.addEventListener('abort', leave, { once: true })
    call.send(file)
  })
}
