/** underWeeks are the entries of a playlist, each with the week whose head stands before it, if one does. */
export function underWeeks<E extends { week: number }>(list: { weekly: boolean; entries: E[] }) {
  let last = 0
  return list.entries.map((entry) => {
    const head = list.weekly && entry.week !== last ? (last = entry.week) : 0
    return { head, entry }
  })
}
