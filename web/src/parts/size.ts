/** How much of a lecture comes over the line: as the line allows, all, the small copy, or sound alone. */
import { computed, onMounted, ref } from 'vue'
import { megabytes } from './time'

export type Size = 'line' | 'large' | 'small' | 'listen'

/** Bytes of the whole, of its small copy and of its sound alone; 0 for none. */
export interface Sizes {
  whole: number
  small: number
  sound: number
}

/** What was chosen is remembered for the next time. */
const remembered = 'late-lantern-size'

/** useSize offers what there is to choose from, and holds what is chosen. */
export function useSize(of: () => { sizes?: Sizes; live: boolean; pictures: boolean }) {
  const size = ref<Size>('line')
  const offered = computed<Size[]>(() => {
    const { sizes, live, pictures } = of()
    if (!sizes || live) return []
    const out: Size[] = sizes.small > 0 ? ['line', 'large', 'small'] : ['large']
    if (sizes.sound > 0 && pictures) out.push('listen')
    return out.length > 1 ? out : []
  })
  const listening = computed(() => size.value === 'listen' && offered.value.includes('listen'))

  /** What a choice costs, in megabytes; what the line allows is not known before. */
  function cost(x: Size): string | undefined {
    const s = of().sizes
    return s && x !== 'line' ? megabytes({ large: s.whole, small: s.small, listen: s.sound }[x]) : undefined
  }

  /** Bytes of what is chosen; where the line decides, of all. */
  const bytes = computed(() => {
    const s = of().sizes
    if (!s) return 0
    return listening.value ? s.sound : size.value === 'small' ? s.small : s.whole
  })

  function choose(x: Size) {
    size.value = x
    localStorage.setItem(remembered, x)
  }

  onMounted(() => {
    const kept = localStorage.getItem(remembered) as Size | null
    if (kept && offered.value.includes(kept)) size.value = kept
    else if (offered.value[0]) size.value = offered.value[0]
  })

  return { size, offered, listening, cost, bytes, choose }
}
