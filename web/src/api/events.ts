import type { QueryClient } from '@tanstack/vue-query'
import { onScopeDispose } from 'vue'

interface Notice {
  about: string
  course: string
  lecture: string
  recording: string
}

/** What each notice makes old: the first words of the keys of queries. */
const old: Record<string, (n: Notice) => (readonly unknown[])[]> = {
  stored: (n) => [['recording', n.recording]],
  packed: (n) => [['recording', n.recording]],
  capture: (n) => [['board'], ['lecture', n.lecture], ['recording', n.recording], ['catch-up'], ['strip', n.recording]],
  strip: (n) => [
    ['strip', n.recording],
    ['recording', n.recording],
  ],
  cuts: (n) => [['recording', n.recording], ['strip', n.recording], ['board'], ['lecture', n.lecture]],
  recording: (n) => [
    ['recording', n.recording],
    ['board'],
    ['lecture', n.lecture],
    ['playlist', n.course],
    ['catch-up'],
  ],
  edition: (n) => [
    ['recording', n.recording],
    ['audience', n.recording],
    ['board'],
    ['playlist', n.course],
    ['catch-up'],
  ],
  light: (n) => [
    ['recording', n.recording],
    ['audience', n.recording],
    ['board'],
    ['playlist', n.course],
    ['catch-up'],
    ['lecture', n.lecture],
  ],
  playlist: (n) => [['playlist', n.course], ['board'], ['recording'], ['catch-up']],
  rule: (n) => [['rule', n.course], ['board'], ['playlist', n.course], ['audience'], ['recording'], ['catch-up']],
}

/** useEvents listens for what changes on the server, as long as the calling component lives. */
export function useEvents(client: QueryClient): void {
  const source = new EventSource('/api/events')
  const due = new Map<string, readonly unknown[]>()
  let timer = 0
  const flush = () => {
    timer = 0
    for (const queryKey of due.values()) void client.invalidateQueries({ queryKey })
    due.clear()
  }
  let opened = false
  source.onopen = () => {
    // What happened while the line was down was missed.
    if (opened) void client.invalidateQueries()
    opened = true
  }
  source.onmessage = (e: MessageEvent<string>) => {
    const notice = JSON.parse(e.data) as Notice
    for (const key of old[notice.about]?.(notice) ?? []) due.set(JSON.stringify(key), key)
    timer ||= window.setTimeout(flush, 150)
  }
  onScopeDispose(() => {
    source.close()
    window.clearTimeout(timer)
  })
}
