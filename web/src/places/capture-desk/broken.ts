/** Captures that broke off on this computer. */
import type { Kept } from './keep'

/** A capture that broke off on this computer. It is remembered for as long as another may go on with its recording. */
export interface Broken {
  id: string
  lecture: string
  began: number
  /** When it was found. */
  at: number
}

const brokenKey = 'late-lantern-broken'
const goesOn = 4 * 3_600_000

export function brokenCaptures(): Broken[] {
  try {
    const all = JSON.parse(localStorage.getItem(brokenKey) ?? '[]') as Broken[]
    return all.filter((b) => Date.now() - b.at < goesOn)
  } catch {
    return []
  }
}

export const noteBroken = (c: Kept) =>
  localStorage.setItem(
    brokenKey,
    JSON.stringify([...brokenCaptures(), { id: c.id, lecture: c.lecture, began: c.began, at: Date.now() }]),
  )

/** forgetBroken is for when the capture of a lecture has gone on. */
export const forgetBroken = (lecture: string) =>
  localStorage.setItem(brokenKey, JSON.stringify(brokenCaptures().filter((b) => b.lecture !== lecture)))
