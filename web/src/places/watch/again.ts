import { onScopeDispose, watch } from 'vue'

/** A little later than it changes, so that the server says so too; in milliseconds. */
const after = 300

/** useChangesByItself calls again once so many milliseconds have passed since something was told; 0 for never. */
export function useChangesByItself(told: () => readonly [number, number] | undefined, again: () => void): void {
  let timer = 0
  watch(
    told,
    (x) => {
      window.clearTimeout(timer)
      if (x && x[1] > 0) timer = window.setTimeout(again, x[1] + after)
    },
    { immediate: true },
  )
  onScopeDispose(() => window.clearTimeout(timer))
}
