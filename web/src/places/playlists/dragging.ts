import Sortable from 'sortablejs'
import { watch, type Ref } from 'vue'

/** useDragging has entries dragged by their grips: which one was dropped, and before which other; none at the end. */
export function useDragging(
  root: Ref<HTMLElement | undefined>,
  on: Ref<boolean>,
  drop: (entry: string, before: string | undefined) => unknown,
) {
  watch([root, on], ([element, movable], _, done) => {
    if (!element || !movable) return
    const sortable = Sortable.create(element, {
      handle: '.grip',
      draggable: '[data-entry]',
      animation: window.matchMedia('(prefers-reduced-motion: reduce)').matches ? 0 : 120,
      onEnd: ({ item, oldIndex }) => {
        const entry = item.dataset.entry!
        let next = item.nextElementSibling as HTMLElement | null
        while (next && !next.dataset.entry) next = next.nextElementSibling as HTMLElement | null
        const before = next?.dataset.entry
        // The page is drawn from what the server says, so the node goes back to where it was drawn.
        item.remove()
        element.insertBefore(item, element.children[oldIndex ?? 0] ?? null)
        void drop(entry, before)
      },
    })
    done(() => sortable.destroy())
  })
}
