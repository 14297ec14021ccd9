/**
 * The clock of the page, in milliseconds since 1970. Rules about time ask it rather than the
 * computer, so that they can be tried without waiting: an event sets it ahead.
 */
let ahead = 0

window.addEventListener('late-lantern-clock', (e) => (ahead += Number((e as CustomEvent<number>).detail) || 0))

export const clockNow = (): number => Date.now() + ahead
