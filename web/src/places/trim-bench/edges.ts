import type { Ref } from 'vue'
import type { BenchChange } from '../../api/bench'
import type { Schemas } from '../../api/client'
import { toKept } from '../../parts/kept'

interface Player {
  seek(ms: number): void
  hear(at: number): Promise<void>
}

/** useEdges works on the edge of what is struck that is nearest to the playhead. */
export function useEdges(
  it: Ref<Schemas['Bench'] | undefined>,
  position: Ref<number>,
  make: (c: BenchChange) => Promise<boolean>,
  player: Ref<Player | undefined>,
) {
  /** The nearest edge; the ends of the recording are none. */
  function here(): number | undefined {
    const b = it.value
    if (!b) return undefined
    const edges = b.struck.flatMap((s) => [s.start, s.end]).filter((x) => x > 0 && x < b.length_ms)
    return edges.sort((x, y) => Math.abs(x - position.value) - Math.abs(y - position.value))[0]
  }

  /** Keys that follow each other quickly are taken one after another, each to what the one before made. */
  let turn: Promise<unknown> = Promise.resolve()

  function nudge(ms: number) {
    turn = turn.then(async () => {
      const edge = here()
      if (edge !== undefined && (await make({ do: 'move', start: edge, end: edge + ms }))) player.value?.seek(edge + ms)
    })
  }

  function toSilence() {
    turn = turn.then(async () => {
      const edge = here()
      if (edge !== undefined) await make({ do: 'silence', start: edge })
    })
  }

  function hear() {
    const edge = here()
    if (edge !== undefined && it.value) void player.value?.hear(toKept(it.value.kept, edge))
  }

  return { nudge, toSilence, hear }
}
