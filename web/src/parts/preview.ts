import { ref, shallowRef } from 'vue'

/**
 * usePreview asks again and again, as what is entered changes: of several questions the last one counts, and what was
 * answered stands until then. Where ask gives none, there is nothing to be seen, and nothing wrong.
 */
export function usePreview<T>(ask: () => Promise<T> | undefined) {
  const preview = shallowRef<T>()
  /** Why there is no answer. */
  const fault = shallowRef<unknown>()
  const busy = ref(false)
  let asked = 0

  async function look() {
    const mine = ++asked
    let got: T | undefined
    let wrong: unknown
    const answer = ask()
    busy.value = answer !== undefined
    try {
      got = await answer
    } catch (e) {
      wrong = e
    }
    if (mine !== asked) return
    preview.value = got
    fault.value = wrong
    busy.value = false
  }
  return { preview, fault, busy, look }
}
