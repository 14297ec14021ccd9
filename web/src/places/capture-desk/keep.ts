/** What was captured is kept here, in the browser's own database, until the server has it on its disk. */
import { openDB, type DBSchema, type IDBPDatabase } from 'idb'

/** A capture that this computer began. */
export interface Kept {
  id: string
  lecture: string
  mediaType: string
  /** Address to append to, once the server gave one. */
  track?: string
  recording?: string
  /** Length in bytes, once the capture has ended. */
  total?: number
  /** When it began, by the clock of this computer. */
  began: number
  /** The capture beside which this is the second picture, and how much later it began, in milliseconds. */
  beside?: string
  lag?: number
  /** Nobody can follow it while it runs. */
  alone?: boolean
}

/** A moment that someone flagged, or a pause. */
export interface Marker {
  id: string
  capture: string
  /** Milliseconds of the capture. */
  at: number
  pause?: number
  word: string
}

/** A piece of a capture. Pieces of one capture follow on from each other without gaps. */
export interface Piece {
  capture: string
  /** Byte offset of its first byte in the capture. */
  offset: number
  bytes: ArrayBuffer
  /** Milliseconds of the capture that are complete with this piece. */
  until: number
}

interface Shape extends DBSchema {
  captures: { key: string; value: Kept }
  pieces: { key: [string, number]; value: Piece }
  markers: { key: string; value: Marker; indexes: { capture: string } }
}

let opened: Promise<IDBPDatabase<Shape>> | undefined

const open = () =>
  openDB<Shape>('late-lantern', 2, {
    upgrade(db, from) {
      if (from < 1) {
        db.createObjectStore('captures', { keyPath: 'id' })
        db.createObjectStore('pieces', { keyPath: ['capture', 'offset'] })
      }
      db.createObjectStore('markers', { keyPath: 'id' }).createIndex('capture', 'capture')
    },
  })

/**
 * A page that is left while it makes the database would be put aside by the browser, frozen,
 * and hold up every other page that wants to open it. A page with a lock is not put aside.
 */
const db = () =>
  (opened ??= (async () => await navigator.locks.request('late-lantern-open', { mode: 'shared' }, open))())

const of = (capture: string) => IDBKeyRange.bound([capture, 0], [capture, Number.MAX_SAFE_INTEGER])

export const keepCapture = async (c: Kept) => void (await (await db()).put('captures', c))

export const keepPiece = async (p: Piece) => void (await (await db()).put('pieces', p))

export const captures = async (): Promise<Kept[]> => (await db()).getAll('captures')

export const keepMarker = async (m: Marker) => void (await (await db()).put('markers', m))

export const markersOf = async (capture: string): Promise<Marker[]> =>
  (await db()).getAllFromIndex('markers', 'capture', capture)

/** forgetMarker removes a marker that was sent, unless its word was changed meanwhile. */
export async function forgetMarker(sent: Marker): Promise<void> {
  const tx = (await db()).transaction('markers', 'readwrite')
  const now = await tx.store.get(sent.id)
  if (now?.word === sent.word) await tx.store.delete(sent.id)
  await tx.done
}

/** nextPieces are the first pieces that are still here, in order, at most `limit`. */
export const nextPieces = async (capture: string, limit: number): Promise<Piece[]> =>
  (await db()).getAll('pieces', of(capture), limit)

/** end is where the bytes that are still here end; undefined when there are none. */
export async function endOfPieces(capture: string): Promise<number | undefined> {
  const cursor = await (await db()).transaction('pieces').store.openCursor(of(capture), 'prev')
  return cursor ? cursor.value.offset + cursor.value.bytes.byteLength : undefined
}

/** dropStored removes those of the first pieces that lie wholly before the offset: the server has them on its disk. */
export async function dropStored(pieces: Piece[], offset: number): Promise<void> {
  const last = pieces.findLast((p) => p.offset + p.bytes.byteLength <= offset)
  if (last) await (await db()).delete('pieces', IDBKeyRange.bound([last.capture, 0], [last.capture, last.offset]))
}

export async function forget(capture: string): Promise<void> {
  const tx = (await db()).transaction(['captures', 'pieces'], 'readwrite')
  await tx.objectStore('pieces').delete(of(capture))
  await tx.objectStore('captures').delete(capture)
  await tx.done
}
