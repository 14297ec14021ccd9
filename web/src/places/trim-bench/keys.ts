import { onScopeDispose } from 'vue'
import type { Part } from './selecting'

export interface BenchKeys {
  toggle(): void
  /** Move the playhead by milliseconds. */
  step(ms: number): void
  faster(by: number): void
  mark(edge: 'start' | 'end'): void
  extend(ms: number): void
  strike(): void
  restore(): void
  undo(): void
  redo(): void
  take(): void
  takeAll(): void
  /** Move the edge nearest to the playhead by milliseconds. */
  nudge(ms: number): void
  /** Move that edge to the nearest silence. */
  toSilence(): void
  /** Hear two seconds around that edge, as published. */
  hear(): void
  leave(): void
  clear(): void
  /** Select the slide, the words, or what lies between two pauses at the playhead. */
  select(what: Part): void
  /** Show the second picture first in the selection, or the first one. */
  lead(): void
  split(): void
  versions(): void
  /** Fewer or more minutes to a line. */
  zoom(by: -1 | 1): void
  /** Look for words in the lecture. */
  find(): void
  help(): void
}

/** useBenchKeys listens for the keys of the trim bench; play, step and mark follow the habits of the editing trade. */
export function useBenchKeys(k: BenchKeys, frame: () => number): void {
  const plain: Record<string, () => void> = {
    k: k.toggle,
    j: () => k.step(-5000),
    l: () => k.step(5000),
    ArrowLeft: () => k.step(-1000),
    ArrowRight: () => k.step(1000),
    ',': () => k.step(-frame()),
    '.': () => k.step(frame()),
    '<': () => k.faster(-1),
    '>': () => k.faster(1),
    i: () => k.mark('start'),
    o: () => k.mark('end'),
    '[': () => k.nudge(-frame()),
    ']': () => k.nudge(frame()),
    '-': () => k.nudge(-100),
    '=': () => k.nudge(100),
    '{': () => k.nudge(-1000),
    '}': () => k.nudge(1000),
    n: k.toSilence,
    h: k.hear,
    x: k.strike,
    Delete: k.strike,
    r: k.restore,
    u: k.undo,
    s: () => k.select('slide'),
    w: () => k.select('words'),
    p: () => k.select('pauses'),
    b: k.lead,
    d: k.split,
    v: k.versions,
    z: () => k.zoom(1),
    Z: () => k.zoom(-1),
    f: k.find,
    Enter: k.take,
    Backspace: k.leave,
    Escape: k.clear,
    '?': k.help,
    ' ': k.toggle,
  }
  const listen = (e: KeyboardEvent) => {
    const at = e.target as HTMLElement
    const writes = at.closest('input, textarea, select, [contenteditable], .el-drawer')
    if (writes || e.altKey) return
    // A button that has the focus keeps its own keys.
    if (at.closest('button, a, summary') && (e.key === 'Enter' || e.key === ' ')) return
    let act: (() => void) | undefined
    if (e.ctrlKey || e.metaKey) {
      if (e.key.toLowerCase() === 'z') act = e.shiftKey ? k.redo : k.undo
      else if (e.key.toLowerCase() === 'y') act = k.redo
    } else if (e.shiftKey && e.key === 'Enter') act = k.takeAll
    else if (e.shiftKey && e.key === 'ArrowLeft') act = () => k.extend(-1000)
    else if (e.shiftKey && e.key === 'ArrowRight') act = () => k.extend(1000)
    else act = plain[e.key]
    if (!act) return
    e.preventDefault()
    act()
  }
  window.addEventListener('keydown', listen)
  onScopeDispose(() => window.removeEventListener('keydown', listen))
}

/** What the sheet of keys lists, in its order: keys, and the name of their text in the catalogue. */
export const listed: [string[], string][] = [
  [['k', 'space'], 'toggle'],
  [['←', '→'], 'second'],
  [[',', '.'], 'frame'],
  [['j', 'l'], 'five'],
  [['<', '>'], 'speed'],
  [['i', 'o'], 'mark'],
  [['shift ←', 'shift →'], 'extend'],
  [['s'], 'slide'],
  [['w'], 'words'],
  [['p'], 'pauses'],
  [['x'], 'strike'],
  [['r'], 'restore'],
  [['[', ']'], 'edge_frame'],
  [['-', '='], 'edge_tenth'],
  [['{', '}'], 'edge_second'],
  [['n'], 'edge_silence'],
  [['h'], 'hear'],
  [['enter'], 'take'],
  [['shift enter'], 'take_all'],
  [['backspace'], 'leave'],
  [['b'], 'lead'],
  [['d'], 'split'],
  [['v'], 'versions'],
  [['z', 'shift z'], 'zoom'],
  [['f'], 'find'],
  [['ctrl z', 'u'], 'undo'],
  [['ctrl shift z'], 'redo'],
  [['esc'], 'clear'],
]
