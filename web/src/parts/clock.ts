/**
 * The clock of the college, in milliseconds since 1970, whatever the clock of this computer
 * says. Rules about time ask it, so that they can be tried without waiting: an event sets it
 * ahead.
 */
let ahead = 0
let moved = 0

window.addEventListener('late-lantern-clock', (e) => (moved += Number((e as CustomEvent<number>).detail) || 0))

/** setCollegeTime tells what time it is in the college. */
export function setCollegeTime(iso: string): void {
  ahead = Date.parse(iso) - Date.now()
}

export const collegeNow = (): number => Date.now() + ahead + moved
