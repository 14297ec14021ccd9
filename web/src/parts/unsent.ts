import { useEventListener } from '@vueuse/core'
import { onBeforeRouteLeave } from 'vue-router'

/**
 * useUnsent asks before the page is left while something on it would be lost. Where nothing would, or where it can be
 * taken back afterwards, nothing is asked.
 */
export function useUnsent(lost: () => boolean, words: () => string) {
  useEventListener(window, 'beforeunload', (e) => {
    if (lost()) e.preventDefault()
  })
  onBeforeRouteLeave(() => !lost() || window.confirm(words()))
}
