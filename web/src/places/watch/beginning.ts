import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { Schemas } from '../../api/client'

const nobody = '00000000-0000-0000-0000-000000000000'

/** published says what edition plays; undefined for what was captured. */
export const published = (p: Schemas['Watch'] | undefined) => (p && p.edition !== nobody ? p.edition : undefined)

/** goesOn is where whoever asks for no moment goes on. */
function goesOn(p: Schemas['Watch'] | undefined): number {
  const missed = p?.account?.known ? undefined : p?.account?.missed[0]
  return p?.resume_ms || missed?.start || 0
}

/**
 * useBeginning is where a recording begins to play: at the moment of the address, else where one stopped, or else with
 * the first that one missed. While one edition plays that stays as it was, whatever is asked again.
 */
export function useBeginning(page: () => Schemas['Watch'] | undefined) {
  const route = useRoute()
  const router = useRouter()
  const from = ref(0)
  /** Another edition was published while one watched. */
  const anew = ref(false)
  /** The address says where. */
  const asked = ref(false)
  watch(
    () => [page()?.id, page()?.edition] as const,
    ([id, edition], before) => {
      const [wasOf, was] = before ?? []
      anew.value = id === wasOf && Boolean(was) && was !== nobody && edition !== was
      const at = Number(route.query.at)
      asked.value = Boolean(id) && !anew.value && route.query.at !== undefined && at >= 0
      // Once it is there, the page that is loaded again goes on where one is by then.
      if (asked.value) void router.replace({ query: { ...route.query, at: undefined } })
      from.value = asked.value ? Math.min(at, Math.max(0, (page()?.length_ms ?? 0) - 100)) : goesOn(page())
    },
    { immediate: true },
  )
  const word = computed(() => {
    if (anew.value) return 'watch.anew'
    return asked.value || !page()?.resume_ms ? 'watch.begins' : 'watch.resumed'
  })
  return { from, word }
}
