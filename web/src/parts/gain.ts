import { onScopeDispose, toValue, watch, type MaybeRefOrGetter, type Ref } from 'vue'

/**
 * useGain plays the sound of an element louder or quieter by dB. What it gives is called when someone
 * presses play: browsers begin no sound before that. Without the means it plays as it is.
 */
export function useGain(element: Ref<HTMLMediaElement | undefined>, db: MaybeRefOrGetter<number>): () => void {
  let context: AudioContext | undefined
  let node: GainNode | undefined

  const set = () => node && (node.gain.value = 10 ** (toValue(db) / 20))

  function begin() {
    const e = element.value
    if (!e || (toValue(db) === 0 && !context)) return
    if (!context) {
      try {
        context = new AudioContext()
        node = context.createGain()
        context.createMediaElementSource(e).connect(node).connect(context.destination)
      } catch {
        void context?.close()
        context = undefined
        return
      }
    }
    set()
    if (context.state === 'suspended') void context.resume()
  }

  watch(() => toValue(db), set)
  onScopeDispose(() => void context?.close())
  return begin
}
