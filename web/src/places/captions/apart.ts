/** apart says in which words two texts are apart: what stands before and after those in both. */
export function apart(seen: string, text: string) {
  const [a, b] = [seen.split(/\s+/), text.split(/\s+/)]
  let from = 0
  while (from < a.length && from < b.length && a[from] === b[from]) from++
  let tail = 0
  while (tail < a.length - from && tail < b.length - from && a[a.length - 1 - tail] === b[b.length - 1 - tail]) tail++
  const of = (words: string[], start: number, end: number) => words.slice(start, end).join(' ')
  return {
    before: of(a, 0, from),
    was: of(a, from, a.length - tail),
    is: of(b, from, b.length - tail),
    after: of(a, a.length - tail, a.length),
  }
}
