import { watch, type Ref } from 'vue'

/**
 * useFollows scrolls a list to the item that stands now, which it finds by a selector, unless something else is done
 * there. Only the list scrolls, never the page.
 */
export function useFollows(
  list: Ref<HTMLElement | undefined>,
  now: () => string | undefined,
  busy: (list: HTMLElement) => boolean,
) {
  watch(now, (selector) => {
    const box = list.value
    const item = selector && box?.querySelector<HTMLElement>(selector)
    if (box && item && !busy(box)) box.scrollTop = item.offsetTop - box.clientHeight / 3
  })
}
