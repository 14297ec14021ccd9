/** What somebody says waits in this browser until the server has it, and goes out by itself, once. */
import { useEventListener, useIntervalFn } from '@vueuse/core'
import { computed, onScopeDispose, ref } from 'vue'
import { askMoment, say } from '../../api/chat'
import type { Problem } from '../../api/client'
import { useMe } from '../../api/me'
import { outbox, type Unsent } from '../../parts/outbox'
import { newId } from '../../parts/uuid'

/** Something that is said in a lecture, or asked of a recording. */
export interface Saying extends Unsent {
  lecture: string
  text: string
  question: boolean
  /** What plays for who says it, and where they are in it, in milliseconds. */
  heard?: { recording: string; at: number; edition?: string }
  /** It is asked of the recording, after the lecture. */
  later?: boolean
}

function tell(x: Saying): Promise<unknown> {
  const ago_ms = Math.max(0, Date.now() - x.when)
  if (x.later && x.heard)
    return askMoment(x.heard.recording, {
      id: x.id,
      text: x.text,
      at: Math.round(x.heard.at),
      edition: x.heard.edition ?? '',
      ago_ms,
    })
  return say(x.lecture, {
    id: x.id,
    text: x.text,
    question: x.question,
    ago_ms,
    ...(x.heard ? { recording: x.heard.recording, at: Math.max(0, Math.round(x.heard.at)) } : {}),
  })
}

const box = outbox<Saying>('late-lantern-unsaid', tell, 200)
/** How often it is tried again what could not be said. */
const often = 3000

/** useSaying says things in a lecture: said hears when the server has some of it. */
export function useSaying(lecture: () => string, said: () => void) {
  const me = useMe()
  /** What the server did not take, with why. */
  const refused = ref<{ error: unknown; text: string }>()
  /** Why it waits. */
  const held = ref<Problem>()
  const waiting = computed(() =>
    box.waiting.value.filter((w) => w.person === me.data.value?.id && w.lecture === lecture()),
  )
  let soon = 0

  async function send() {
    const person = me.data.value?.id
    if (!person || box.waiting.value.length === 0) return
    held.value = undefined
    window.clearTimeout(soon)
    const some = await box.send(
      person,
      (error, entry) => (refused.value = { error, text: entry.text }),
      (e) => {
        held.value = e
        if (e.after > 0) soon = window.setTimeout(() => void send(), e.after * 1000)
      },
    )
    if (some) said()
  }

  function put(what: Omit<Saying, 'id' | 'person' | 'when' | 'lecture'>) {
    const person = me.data.value?.id
    if (!person) return
    refused.value = undefined
    box.add({ ...what, id: newId(), person, when: Date.now(), lecture: lecture() })
    void send()
  }

  // While one says too much, it is not tried before it may be.
  useIntervalFn(() => held.value?.status !== 429 && void send(), often)
  useEventListener(window, 'online', () => void send())
  onScopeDispose(() => window.clearTimeout(soon))
  void send()
  return { put, waiting, refused, held }
}
