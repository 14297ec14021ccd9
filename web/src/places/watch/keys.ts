import { onScopeDispose } from 'vue'

interface WatchKeys {
  toggle(): void
  step(ms: number): void
  faster(by: number): void
  full(): void
}

/** useWatchKeys listens for the keys of watching, unless someone writes or a control has the focus that needs them. */
export function useWatchKeys(k: WatchKeys): void {
  const plain: Record<string, () => void> = {
    k: k.toggle,
    ' ': k.toggle,
    j: () => k.step(-10_000),
    l: () => k.step(10_000),
    ArrowLeft: () => k.step(-5000),
    ArrowRight: () => k.step(5000),
    '<': () => k.faster(-1),
    '>': () => k.faster(1),
    f: k.full,
  }
  const listen = (e: KeyboardEvent) => {
    const at = e.target as HTMLElement
    if (e.ctrlKey || e.metaKey || e.altKey || at.closest('input, select, textarea')) return
    if (e.key === ' ' && at.closest('button, a')) return
    const act = plain[e.key]
    if (!act) return
    e.preventDefault()
    act()
  }
  window.addEventListener('keydown', listen)
  onScopeDispose(() => window.removeEventListener('keydown', listen))
}
