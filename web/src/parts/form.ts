import { computed, ref } from 'vue'
import { Problem } from '../api/client'

/** useForm sends what was entered, and holds what was wrong with it: at its fields, or as a whole. */
export function useForm() {
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
  return { problem, busy, fields, whole, send }
}
