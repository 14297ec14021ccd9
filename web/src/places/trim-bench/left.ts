import { ref, toValue, watch, type MaybeRefOrGetter, type Ref } from 'vue'

/**
 * useLeft remembers, on this computer, which proposals of a recording were left as they are: by their start, in
 * milliseconds.
 */
export function useLeft(recording: MaybeRefOrGetter<string>): {
  left: Ref<number[]>
  leave(p: { start: number }): void
} {
  const key = () => `late-lantern-left-${toValue(recording)}`
  const left = ref<number[]>([])
  watch(
    key,
    (k) => {
      try {
        left.value = JSON.parse(localStorage.getItem(k) ?? '[]') as number[]
      } catch {
        left.value = []
      }
    },
    { immediate: true },
  )
  function leave(p: { start: number }) {
    left.value = [...left.value, p.start]
    localStorage.setItem(key(), JSON.stringify(left.value))
  }
  return { left, leave }
}
