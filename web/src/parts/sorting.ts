import { computed, ref } from 'vue'
import { locale } from './reader'

/** By which column a table is sorted, and whether from the end. */
export interface Sorted {
  by: string
  down: boolean
}

/** useSorting are the lines of a table in the order that its reader chose; at first, as they come. */
export function useSorting<T>(lines: () => T[], of: Record<string, (line: T) => string>) {
  const sorted = ref<Sorted>({ by: '', down: false })
  const order = new Intl.Collator(locale, { numeric: true, sensitivity: 'base' })
  const list = computed(() => {
    const text = of[sorted.value.by]
    if (!text) return lines()
    const way = sorted.value.down ? -1 : 1
    return [...lines()].sort((a, b) => way * order.compare(text(a), text(b)))
  })
  return { sorted, list }
}
