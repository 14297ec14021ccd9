/** Which courses of the board are shown, and how close they stand. */
import { useLocalStorage } from '@vueuse/core'
import { computed, reactive, type Ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import type { Schemas } from '../../api/client'
import { useMe } from '../../api/me'
import { asks } from '../common/steps'

export const densities = ['roomy', 'close', 'closest'] as const
export type Density = (typeof densities)[number]

/** What of its lectures a course can be chosen by: that one of them waits for any hand, its state, or its next step. */
export const states = ['hand', 'part_lit', 'dark', 'missed'] as const

type Row = Schemas['Row']

const matches = (state: string) => (l: Row['lectures'][number]) =>
  state === 'hand' ? asks(l) : l.state === state || l.next === state

/** useFilter chooses among the courses of a board. The address can say by what state: a list of all that wait. */
export function useFilter(board: Ref<Schemas['Board'] | undefined>) {
  const route = useRoute()
  const router = useRouter()
  const state = computed({
    get: () => String(route.query.waits ?? ''),
    set: (waits) => void router.replace({ query: { ...route.query, waits: waits || undefined } }),
  })
  const chosen = reactive({ words: '', hall: '', lecturer: '', state, mine: false })
  const all = computed(() => board.value?.courses ?? [])
  const rows = computed(() => {
    const words = chosen.words.toLowerCase().split(/\s+/).filter(Boolean)
    return all.value.filter((c) => {
      const text = [c.code, c.title, ...c.lecturers, ...c.halls].join(' ').toLowerCase()
      return (
        (c.mine || !chosen.mine) &&
        (!chosen.hall || c.halls.includes(chosen.hall)) &&
        (!chosen.lecturer || c.lecturers.includes(chosen.lecturer)) &&
        (!chosen.state || c.lectures.some(matches(chosen.state))) &&
        words.every((w) => text.includes(w))
      )
    })
  })
  const named = (of: (c: Row) => string[]) => computed(() => [...new Set(all.value.flatMap(of))].sort())
  /** Some courses are one's own, and others are not. */
  const mixed = computed(() => all.value.some((c) => c.mine) && all.value.some((c) => !c.mine))
  const clear = () => Object.assign(chosen, { words: '', hall: '', lecturer: '', state: '', mine: false })
  return { chosen, clear, rows, mixed, halls: named((c) => c.halls), lecturers: named((c) => c.lecturers) }
}

/** useDensity is how close the rows stand, kept in this browser for each person. */
export function useDensity(): Ref<Density> {
  const me = useMe()
  const kept = useLocalStorage<Record<string, Density>>('board-density', {})
  return computed({
    get: () => kept.value[me.data.value?.id ?? ''] ?? 'roomy',
    set: (d) => (kept.value = { ...kept.value, [me.data.value?.id ?? '']: d }),
  })
}
