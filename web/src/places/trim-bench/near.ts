import { nextTick, onMounted, onScopeDispose, ref, watch, type Ref } from 'vue'

/** useNear are the numbers of the lines near the window: only those are drawn, three hours can be a thousand. */
export function useNear(rows: Ref<HTMLElement[]>, step: Ref<number>, count: () => number) {
  const near = ref(new Set<number>())
  let watcher: IntersectionObserver | undefined
  function observe() {
    watcher?.disconnect()
    watcher = new IntersectionObserver(
      (seen) => {
        const next = new Set(near.value)
        for (const e of seen) {
          const n = Number((e.target as HTMLElement).dataset.line)
          if (e.isIntersecting) next.add(n)
          else next.delete(n)
        }
        near.value = next
      },
      { rootMargin: '400px' },
    )
    for (const r of rows.value) watcher.observe(r)
  }
  onMounted(observe)
  watch(step, () => {
    near.value = new Set()
    void nextTick(observe)
  })
  watch(count, () => void nextTick(observe))
  onScopeDispose(() => watcher?.disconnect())
  return near
}
