/** What someone watched is told as they go: nothing of it is lost with a line or a page. */
import { useEventListener, useIntervalFn } from '@vueuse/core'
import { onScopeDispose, shallowRef } from 'vue'
import { tellPlayed } from '../../api/catchup'
import { useMe } from '../../api/me'
import type { Stretch } from '../../parts/kept'
import { outbox, type Unsent } from '../../parts/outbox'

interface Told extends Unsent {
  recording: string
  edition: string
  /** Where they were then, in milliseconds of what is published. */
  at: number
  played: Stretch[]
  took: number
}

/** How often it is told while something plays. */
const often = 10_000
/** Faster than this nothing plays, so someone went elsewhere. */
const fastest = 3 * 1.3
/** By how much what is told of a clock that plays may come late. */
const lag = 1200
/** A piece that ends so near to where the next begins goes on in it. */
const near = 250
/** What is shown of it grows by steps of so much. */
const drawn = 200
const mostWaiting = 300

const box = outbox<Told>('late-lantern-played', (w) => tellPlayed(w.recording, body(w)), mostWaiting)

/** sendPlayed tells the server what of a person waits; refused hears of what it does not take. */
export const sendPlayed = (person: string, refused?: (e: unknown) => void) => box.send(person, refused)

const body = (w: Told) => ({
  edition: w.edition,
  at: Math.round(w.at),
  played: w.played.slice(0, 500).map((p) => ({ start: Math.round(p.start), end: Math.round(p.end) })),
  took_ms: Math.round(w.took),
  ago_ms: Math.max(0, Date.now() - w.when),
})

/** usePlayed follows what plays of an edition, and tells of it: kept hears each time the server has it. */
export function usePlayed(
  what: () => { recording: string; edition: string } | undefined,
  then: { kept?: () => void; refused: (e: unknown) => void },
) {
  const me = useMe()
  let played: Stretch[] = []
  /** All that played here, to be shown. */
  const now = shallowRef<Stretch[]>([])
  let took = 0
  /** Of what it is, and where one is in it. */
  let of: { recording: string; edition: string } | undefined
  let at = 0
  let last: { at: number; wall: number } | undefined
  let told = { at: 0, wall: performance.now() }

  function add(start: number, end: number) {
    const before = played[played.length - 1]
    if (before && Math.abs(before.end - start) <= near) before.end = Math.max(before.end, end)
    else played.push({ start, end })
    const shown = now.value[now.value.length - 1]
    if (!shown || Math.abs(shown.end - start) > near) now.value = [...now.value, { start, end }]
    else if (end - shown.end > drawn || end - start > near)
      now.value = [...now.value.slice(0, -1), { start: shown.start, end }]
  }

  /** follow is called again and again while something plays, with where it is and how fast it plays. */
  function follow(moment: number, rate = 1) {
    const is = what()
    if (of?.recording !== is?.recording || of?.edition !== is?.edition) {
      tell(at)
      of = is
      last = undefined
      now.value = []
    }
    at = moment
    const wall = performance.now()
    const [on, by] = last ? [at - last.at, wall - last.wall] : [0, 0]
    if (last && on > 0 && on <= by * fastest + lag) {
      add(last.at, at)
      took += on / rate // what the line held up is not how fast one watches
    }
    last = { at, wall }
    if (wall - told.wall >= often) tell(at)
  }

  /** elsewhere says that what comes next was not played up to. */
  const elsewhere = () => (last = undefined)

  /** over counts what was gone over because nobody speaks there. */
  const over = (s: Stretch) => add(s.start, s.end)

  /** take puts what is known by now where it waits; false when there is nothing to tell. */
  function take(at: number): boolean {
    const person = me.data.value?.id
    told = { at: told.at, wall: performance.now() }
    if (!of || !person || (played.length === 0 && at === told.at)) return false
    const entry = { id: `${Date.now()} ${Math.random()}`, person, ...of, at, played, took, when: Date.now() }
    box.add(entry)
    told.at = at
    played = []
    took = 0
    return true
  }

  function tell(at: number) {
    if (!take(at)) return
    void sendPlayed(me.data.value!.id, then.refused).then((some) => some && then.kept?.())
  }

  const again = () => me.data.value && void sendPlayed(me.data.value.id)
  useEventListener(window, 'online', again)
  useIntervalFn(again, often)
  useEventListener(window, 'pagehide', () => {
    if (take(at)) void tellPlayed(of!.recording, body(box.waiting.value.at(-1)!), true).catch(() => undefined)
  })
  useEventListener(document, 'visibilitychange', () => document.hidden && tell(at))
  onScopeDispose(() => tell(at))

  return { follow, elsewhere, over, tell, now }
}
