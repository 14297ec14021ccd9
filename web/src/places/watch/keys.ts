import { onScopeDispose } from 'vue'

interface WatchKeys {
  toggle(): void
  step(ms: number): void
  faster(by: number): void
  full(): void
  small(): void
  /** To the chapter, or the missed stretch, that comes next; back for -1. */
  chapter(by: number): void
  missed(): void
  captions(): void
  /** The next arrangement of two pictures, and the other one as the larger. */
  arrange(): void
  swap(): void
  help(): void
}

/** A picture of most lectures, in milliseconds. */
const picture = 40

/** What the keys do, for the page that says it. */
export const keyWords = [
  ['K Space', 'watch.keys.toggle'],
  ['J L', 'watch.keys.ten'],
  ['← →', 'watch.keys.five'],
  [', .', 'watch.keys.picture'],
  ['[ ]', 'watch.keys.chapter'],
  ['N', 'watch.keys.missed'],
  ['< >', 'watch.keys.faster'],
  ['C', 'watch.keys.captions'],
  ['A', 'watch.keys.arrange'],
  ['S', 'watch.keys.swap'],
  ['F', 'watch.keys.full'],
  ['W', 'watch.keys.small'],
  ['?', 'watch.keys.help'],
] as const

/** useWatchKeys listens for the keys of watching, unless someone writes or a control has the focus that needs them. */
export function useWatchKeys(k: WatchKeys): void {
  const plain: Record<string, () => void> = {
    k: k.toggle,
    ' ': k.toggle,
    j: () => k.step(-10_000),
    l: () => k.step(10_000),
    ArrowLeft: () => k.step(-5000),
    ArrowRight: () => k.step(5000),
    ',': () => k.step(-picture),
    '.': () => k.step(picture),
    '[': () => k.chapter(-1),
    ']': () => k.chapter(1),
    n: k.missed,
    '<': () => k.faster(-1),
    '>': () => k.faster(1),
    c: k.captions,
    a: k.arrange,
    s: k.swap,
    f: k.full,
    w: k.small,
    '?': k.help,
  }
  const listen = (e: KeyboardEvent) => {
    const at = e.target as HTMLElement
    if (e.ctrlKey || e.metaKey || at.closest('input, select, textarea')) return
    // Some keyboards have brackets only with another key held.
    if (e.altKey && !'[]'.includes(e.key)) return
    if (e.key === ' ' && at.closest('button, a')) return
    if (at.closest('[role="dialog"]')) return
    const act = plain[e.key]
    if (!act) return
    e.preventDefault()
    act()
  }
  window.addEventListener('keydown', listen)
  onScopeDispose(() => window.removeEventListener('keydown', listen))
}
