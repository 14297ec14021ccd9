import type { Router } from 'vue-router'

/** fetchAhead loads the page behind a link as soon as it is pointed at or reached by key. */
export function fetchAhead(router: Router): void {
  const fetched = new Set<unknown>()
  const look = (e: Event) => {
    const address = e.target instanceof Element && e.target.closest('a[href^="/"]')?.getAttribute('href')
    if (!address || address.startsWith('/api/')) return
    for (const { components } of router.resolve(address).matched) {
      const page = components?.default
      if (typeof page !== 'function' || fetched.has(page)) continue
      fetched.add(page)
      // What cannot be had now is asked for again, and its fault said, when one goes there.
      void Promise.resolve((page as () => unknown)()).catch(() => fetched.delete(page))
    }
  }
  document.addEventListener('pointerover', look, { passive: true })
  document.addEventListener('focusin', look)
}
