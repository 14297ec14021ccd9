/** What can be done with a line of a chat, and the way back of each. */
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import {
  bringBackLine,
  markLine,
  takeLineDown,
  turnLine,
  withdrawLine,
  type ChatLine,
  type ChatState,
} from '../../../api/chat'

export type ChatAct =
  | { do: 'withdraw' | 'bring_back'; line: ChatLine }
  | { do: 'turn'; line: ChatLine; question: boolean }
  | { do: 'mark'; line: ChatLine; state: ChatState; answer: string; shown: boolean }
  | { do: 'down'; line: ChatLine; down: boolean; why?: string }

/** What was done, to be said, with the way back. */
export interface ChatDone {
  key: number
  text: string
  undo: () => Promise<unknown>
  /** It was taken down, so that one can say why. */
  down?: ChatLine
}

function send(lecture: string, what: ChatAct): Promise<unknown> {
  const { id } = what.line
  switch (what.do) {
    case 'withdraw':
      return withdrawLine(lecture, id)
    case 'bring_back':
      return bringBackLine(lecture, id)
    case 'turn':
      return turnLine(lecture, id, what.question)
    case 'mark':
      return markLine(lecture, id, { state: what.state, answer: what.answer, shown: what.shown })
    case 'down':
      return takeLineDown(lecture, id, what.down, what.why ?? '')
  }
}

/** back is what takes an act back; none for what only takes something back itself. */
function back(what: ChatAct): ChatAct | undefined {
  const { line } = what
  switch (what.do) {
    case 'withdraw':
      return { do: 'bring_back', line }
    case 'mark':
      return { do: 'mark', line, state: line.state, answer: line.answer, shown: line.shown }
    case 'down':
      return what.down ? { do: 'down', line, down: false } : undefined
    default:
      return undefined
  }
}

/** useChatActs does things with lines of the chat of a lecture; done hears when something was done. */
export function useChatActs(lecture: (line: ChatLine) => string, done: () => void) {
  const { t } = useI18n()
  const fault = ref<unknown>()
  const last = ref<ChatDone>()
  let acts = 0

  async function act(what: ChatAct) {
    fault.value = undefined
    const of = lecture(what.line)
    try {
      await send(of, what)
    } catch (e) {
      fault.value = e
      return
    }
    const undo = back(what)
    last.value = undo && {
      key: ++acts,
      text:
        what.do === 'mark'
          ? t(`chat.done.${what.state || 'line'}`, { name: what.line.name })
          : t(`chat.done.${what.do}`, { name: what.line.name }),
      undo: () => send(of, undo).then(done),
      ...(what.do === 'down' ? { down: what.line } : {}),
    }
    done()
  }
  return { act, fault, last }
}
