import { computed, ref, watch, type ComputedRef, type Ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { Problem } from '../api/client'
import { useUnsent } from './unsent'

/** What was kept, said, and taken back: what an UndoLine is given. */
export interface Done {
  key: number
  text: string
  undo: () => Promise<unknown>
}

/** Sends sends what was entered, and holds what was wrong with it. */
interface Sends {
  problem: Ref<unknown>
  busy: Ref<boolean>
  fields: ComputedRef<Record<string, string>>
  whole: ComputedRef<unknown>
  send: <T>(what: () => Promise<T>) => Promise<T | undefined>
  act: (what: () => Promise<unknown>) => Promise<boolean>
  done: Ref<Done | undefined>
  said: (text: string, undo: () => Promise<unknown>) => void
}

/** Drafts holds what is entered; D may be undefined as long as it is not known what is there. */
interface Drafts<T, D> {
  draft: Ref<D>
  changed: ComputedRef<boolean>
  reset: () => void
  keep: (write: (draft: T) => Promise<unknown>, said: string, after?: () => Promise<unknown>) => Promise<boolean>
}

/**
 * useForm sends what was entered, and holds what was wrong with it: at its fields, or as a whole. With from, what is
 * there as it is entered (undefined until that is known), it also holds the draft: what others make of it meanwhile
 * shows where nothing else was entered, and leaving the page with something entered is asked about, unless asks is
 * false.
 */
export function useForm(): Sends
export function useForm<T extends object>(from: () => T, asks?: boolean): Sends & Drafts<T, T>
export function useForm<T extends object>(from: () => T | undefined, asks?: boolean): Sends & Drafts<T, T | undefined>
export function useForm<T extends object>(from?: () => T | undefined, asks = true) {
  const sends = useSends()
  return from ? { ...sends, ...useDraft(from, asks, sends) } : sends
}

let acts = 0

function useSends(): Sends {
  const problem = ref<unknown>()
  const busy = ref(false)
  const fields = computed<Record<string, string>>(() =>
    problem.value instanceof Problem && problem.value.kind === 'fields' ? problem.value.fields : {},
  )
  /** What went wrong that belongs to no field. */
  const whole = computed(() => (Object.keys(fields.value).length > 0 ? undefined : problem.value))

  /** send gives what do gives, or undefined when it could not be done. */
  async function send<T>(what: () => Promise<T>): Promise<T | undefined> {
    busy.value = true
    problem.value = undefined
    try {
      return await what()
    } catch (e) {
      problem.value = e
      return undefined
    } finally {
      busy.value = false
    }
  }

  /** act reports whether something could be done. */
  const act = async (what: () => Promise<unknown>) => (await send(() => what().then(() => true))) ?? false

  /** said keeps what was done last, and how it is taken back. */
  const done = ref<Done>()
  const said = (text: string, undo: () => Promise<unknown>) => {
    done.value = { key: ++acts, text, undo }
  }
  return { problem, busy, fields, whole, send, act, done, said }
}

const copy = <T>(x: T): T => (x === undefined ? x : (JSON.parse(JSON.stringify(x)) as T))
const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b)
function useDraft<T extends object>(
  from: () => T | undefined,
  asks: boolean,
  { act, said: tell }: Sends,
): Drafts<T, T | undefined> {
  const draft = ref<T>() as Ref<T | undefined>
  const sent = ref<T>() as Ref<T | undefined>
  watch(
    from,
    (now, was) => {
      if (!now) return void (draft.value = undefined)
      const d = draft.value
      if (!d || !was) return void (draft.value ??= copy(now))
      for (const key of Object.keys({ ...was, ...now }) as (keyof T)[])
        if (same(d[key], was[key]) || same(d[key], sent.value?.[key])) d[key] = copy(now[key])
    },
    { immediate: true },
  )
  /** Something is entered that is neither there nor kept. */
  const changed = computed(() => {
    const there = from()
    return !!there && !!draft.value && !same(draft.value, there) && !same(draft.value, sent.value)
  })
  if (asks) {
    const { t } = useI18n()
    useUnsent(
      () => changed.value,
      () => t('leave_unsent'),
    )
  }

  function reset() {
    const there = from()
    draft.value = there && copy(there)
    sent.value = undefined
  }

  /** keep writes what was entered, does what comes after it, says so, and offers to write again what was there. */
  async function keep(write: (draft: T) => Promise<unknown>, said: string, after?: () => Promise<unknown>) {
    const was = copy(from()!)
    const now = copy(draft.value!)
    if (!(await act(() => write(now)))) return false
    sent.value = now
    await after?.()
    const undo = async () => {
      await write(was)
      sent.value = copy(draft.value!)
      await after?.()
    }
    tell(said, undo)
    return true
  }
  return { draft, changed, reset, keep }
}
