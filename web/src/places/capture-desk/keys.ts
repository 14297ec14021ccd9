import { onScopeDispose } from 'vue'

interface DeskKeys {
  start(): void
  stop(): void
  pause(): void
  mark(): void
}

/**
 * useDeskKeys listens for the keys of the desk, each with Alt, so that no letter that is written starts or stops
 * anything.
 */
export function useDeskKeys(k: DeskKeys): void {
  const acts: Record<string, () => void> = { KeyC: k.start, KeyX: k.stop, KeyP: k.pause, KeyM: k.mark }
  const listen = (e: KeyboardEvent) => {
    const act = acts[e.code]
    if (!act || !e.altKey || e.ctrlKey || e.metaKey || e.repeat) return
    e.preventDefault()
    act()
  }
  window.addEventListener('keydown', listen)
  onScopeDispose(() => window.removeEventListener('keydown', listen))
}
