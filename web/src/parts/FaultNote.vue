<script setup lang="ts">
/** What went wrong, where it went wrong: a sentence, and a way to try again when there is one. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { Problem } from '../api/client'
import { say } from '../messages/said'

const props = defineProps<{
  error: unknown
  again?: boolean
  /** What to say when what was asked for is not there. */
  missing?: string
}>()
const emit = defineEmits<{ again: [] }>()
const { t, te } = useI18n()

const text = computed(() => {
  const e = props.error
  if (!(e instanceof Problem)) return say({ code: 'internal' })
  if (props.missing && e.status === 404) return props.missing
  // What happens here, and the server knows nothing of.
  const here = `problem.${e.kind}`
  return te(here) ? t(here) : say({ code: e.kind, with: e.values, text: e.message })
})
</script>

<template>
  <p class="fault" role="alert">
    {{ text }}
    <el-button v-if="again" link @click="emit('again')">{{ t('again') }}</el-button>
  </p>
</template>

<style scoped>
.fault {
  margin: 8px 0;
  padding: 8px 12px;
  border-inline-start: 3px solid var(--tally);
  background: var(--tally-soft);
}
</style>
