/** What somebody answers waits in this browser until the server has it, and goes out by itself, once. */
import { useEventListener, useIntervalFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useMe } from '../../../api/me'
import { answerLater, answerToAll, type AnswerText } from '../../../api/toAll'
import { outbox, type Unsent } from '../../../parts/outbox'
import { newId } from '../../../parts/uuid'

interface Answering extends Unsent {
  asked: string
  /** Of what is answered in class. */
  lecture?: string
  /** Of what is answered later. */
  recording?: string
  answer: AnswerText
}

const box = outbox<Answering>('late-lantern-unanswered', tell, 50)

function tell(x: Answering): Promise<unknown> {
  const body = { ...x.answer, ago_ms: Math.max(0, Date.now() - x.when) }
  return x.recording ? answerLater(x.recording, x.asked, body) : answerToAll(x.lecture ?? '', x.asked, body)
}

/** useAnswering answers questions of a lecture, or of its recording; said hears when the server has an answer. */
export function useAnswering(of: () => { lecture?: string; recording?: string }, said: () => void) {
  const me = useMe()
  /** What the server did not take, by question. */
  const refused = ref<Record<string, unknown>>({})
  const waiting = computed(() => box.waiting.value.filter((w) => w.person === me.data.value?.id))

  async function send() {
    const person = me.data.value?.id
    if (!person || box.waiting.value.length === 0) return
    let told = false
    const some = await box.send(person, (error, x) => {
      refused.value = { ...refused.value, [x.asked]: error }
      told = true
    })
    if (some || told) said()
  }

  function put(asked: string, answer: AnswerText) {
    const person = me.data.value?.id
    if (!person) return
    refused.value = { ...refused.value, [asked]: undefined }
    // What waits of the same question is no longer meant.
    box.waiting.value = box.waiting.value.filter((w) => w.asked !== asked || w.person !== person)
    box.add({ ...of(), id: newId(), person, when: Date.now(), asked, answer })
    void send()
  }

  const waits = (asked: string) => waiting.value.find((w) => w.asked === asked)
  useIntervalFn(() => void send(), 3000)
  useEventListener(window, 'online', () => void send())
  void send()
  return { put, waits, refused }
}
