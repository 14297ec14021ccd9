import type { QueryClient } from '@tanstack/vue-query'
import { onScopeDispose } from 'vue'
import { hearChat } from './chat'
import type { Schemas } from './client'

type Notice = Schemas['Event']

const said = (n: Notice) => [['chat', n.lecture], ['lost', n.lecture], ['said-in'], ['questions', n.course]]

/** What each notice makes old: the first words of the keys of queries. */
const old: Record<Notice['about'], (n: Notice) => (readonly unknown[])[]> = {
  chat: said,
  asked: (n) => [...said(n), ['news']],
  to_all: (n) => [['to-all', n.lecture], ['asked-in'], ['register', n.lecture]],
  answers: (n) => [['to-all', n.lecture], ['asked-in']],
  prepared: (n) => [['prepared', n.course]],
  register: (n) => [['register', n.lecture], ['registers', n.course], ['news']],
  term: () => [['term'], ['terms'], ['board'], ['all'], ['courses'], ['course'], ['dates'], ['run-sheet']],
  timetable: (n) => [
    ['forgotten'],
    ['board'],
    ['all'],
    ['courses'],
    ['course', n.course],
    ['room', n.course],
    ['dates'],
    ['run-sheet'],
    ['lecture'],
    ['lecture-page'],
    ['who-else'],
  ],
  roster: (n) => [
    ['caught-up', n.course],
    ['people', n.course],
    ['course', n.course],
    ['courses'],
    ['me'],
    ['board'],
    ['all'],
    ['audience'],
  ],
  reminder: () => [['forgotten'], ['run-sheet']],
  doorway: (n) => [
    ['lecture-page', n.lecture],
    ['doorway', n.lecture],
    ['run-sheet'],
    ['forgotten'],
    ['dates'],
    ['watch'], // who is sent out is told so
  ],
  file: () => [['files'], ['board']],
  stored: (n) => [['recording', n.recording]],
  packed: (n) => [['recording', n.recording], ['run-sheet'], ['files']],
  capture: (n) => [
    ['forgotten'],
    ['files'],
    ['board'],
    ['all'],
    ['lecture', n.lecture],
    ['lecture-page', n.lecture],
    ['recording', n.recording],
    ['watch', n.recording],
    ['catch-up'],
    ['strip', n.recording],
    ['run-sheet'],
    ['course', n.course],
    ['room', n.course],
    ['dates'],
  ],
  small: (n) => [
    ['lecture', n.lecture],
    ['recording', n.recording],
  ],
  strip: (n) => [
    ['strip', n.recording],
    ['recording', n.recording],
  ],
  words: (n) => [['words', n.recording], ['news'], ['strip', n.recording], ['board'], ['all'], ['lecture', n.lecture]],
  cuts: (n) => [
    ['words', n.recording, 'chapters'],
    ['recording', n.recording],
    ['strip', n.recording],
    ['board'],
    ['all'],
    ['lecture', n.lecture],
  ],
  recording: (n) => [
    ['recording', n.recording],
    ['bin'],
    ['titles'],
    ['files'],
    ['board'],
    ['all'],
    ['lecture', n.lecture],
    ['playlist', n.course],
    ['catch-up'],
  ],
  edition: (n) => [
    ['watch', n.recording],
    ['lecture', n.lecture],
    ['recording', n.recording],
    ['audience', n.recording],
    ['board'],
    ['all'],
    ['playlist', n.course],
    ['caught-up'],
    ['catch-up'],
  ],
  light: (n) => [
    ['linked'],
    ['planned'],
    ['course-news', n.course],
    ['news'],
    ['watch'], // of which is not said to whom it is dark now
    ['recording', n.recording],
    ['audience', n.recording],
    ['board'],
    ['all'],
    ['playlist', n.course],
    ['caught-up'],
    ['catch-up'],
    ['lecture', n.lecture],
  ],
  news: (n) => [['course-news', n.course], ['news'], ['board'], ['all'], ['recording'], ['lecture']],
  playlist: (n) => [['linked'], ['playlist', n.course], ['board'], ['all'], ['recording'], ['lecture'], ['catch-up']],
  rule: (n) => [
    ['course-news'],
    ['news'],
    ['watch'],
    ['rule'],
    ['shut-outs', n.course],
    ['openings'],
    ['linked'],
    ['board'],
    ['all'],
    ['playlist'],
    ['audience'],
    ['recording'],
    ['lecture'],
    ['caught-up'],
    ['catch-up'],
  ],
}

const shared = 'late-lantern-events'

/** A notice, or word that some may have been missed. */
type Word = Notice | 'missed'

/**
 * useEvents listens for what changes on the server, as long as the calling component lives. A
 * browser allows only six connections to a server, so of all its tabs one listens and tells the others.
 */
export function useEvents(client: QueryClient): void {
  const due = new Map<string, readonly unknown[]>()
  let timer = 0
  const flush = () => {
    timer = 0
    for (const queryKey of due.values()) void client.invalidateQueries({ queryKey })
    due.clear()
  }
  const hear = (w: Word) => {
    if (w === 'missed') return void client.invalidateQueries()
    const known = w.about === 'chat' && hearChat(client, w)
    for (const key of old[w.about]?.(w) ?? []) if (!known || key[0] !== 'chat') due.set(JSON.stringify(key), key)
    timer ||= window.setTimeout(flush, 150)
  }

  const others = new BroadcastChannel(shared)
  others.onmessage = (e: MessageEvent<Word>) => hear(e.data)
  const tell = (w: Word) => {
    others.postMessage(w)
    hear(w)
  }

  /** listen holds the one connection until it is aborted. */
  const listen = (signal: AbortSignal, asked: number) =>
    new Promise<void>((done) => {
      let source: EventSource
      let again = 0
      let opened = false
      let wait = 1000
      const open = () => {
        source = new EventSource('/api/events')
        source.onopen = () => {
          // What happened while the line was down, or before this tab heard anything, was missed.
          if (opened || performance.now() - asked > 200) tell('missed')
          opened = true
          wait = 1000
        }
        source.onmessage = (e: MessageEvent<string>) => tell(JSON.parse(e.data) as Notice)
        // A browser tries again by itself after a line that broke, not after an answer such as 502.
        source.onerror = () => {
          if (source.readyState !== EventSource.CLOSED) return
          // Perhaps there is no session any more.
          void client.invalidateQueries({ queryKey: ['me'] })
          again = window.setTimeout(open, wait)
          wait = Math.min(2 * wait, 30_000)
        }
      }
      open()
      signal.addEventListener('abort', () => {
        window.clearTimeout(again)
        source.close()
        done()
      })
    })

  let turn: AbortController | undefined
  const begin = () => {
    const mine = (turn = new AbortController())
    const asked = performance.now()
    // aborted while it waited
    navigator.locks.request(shared, { signal: mine.signal }, () => listen(mine.signal, asked)).catch(() => undefined)
  }
  const end = () => turn?.abort()
  // A page that the browser keeps for going back must not keep the connection.
  const shown = (e: PageTransitionEvent) => {
    if (!e.persisted) return
    begin()
    hear('missed')
  }
  begin()
  window.addEventListener('pagehide', end)
  window.addEventListener('pageshow', shown)
  onScopeDispose(() => {
    end()
    others.close()
    window.clearTimeout(timer)
    window.removeEventListener('pagehide', end)
    window.removeEventListener('pageshow', shown)
  })
}
