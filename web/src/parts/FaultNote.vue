<script setup lang="ts">
/** What went wrong, where it went wrong: a sentence, and a way to try again when there is one. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { Problem } from '../api/client'

const props = defineProps<{
  error: unknown
  again?: boolean
  /** What to say when what was asked for is not there. */
  missing?: string
}>()
const emit = defineEmits<{ again: [] }>()
const { t, te } = useI18n()

const text = computed(() => {
  if (!(props.error instanceof Problem)) return t('problem.internal')
  if (props.missing && props.error.status === 404) return props.missing
  const key = `problem.${props.error.kind.replace(':', '.')}`
  // A refusal that depends on what was sent is worded by the server.
  if (props.error.message && !te(key))
    return `${props.error.message[0]?.toUpperCase()}${props.error.message.slice(1)}.`.replace('..', '.')
  return t(te(key) ? key : 'problem.internal')
})
</script>

<template>
  <p class="fault" role="alert">
    {{ text }}
    <button v-if="again" class="word" type="button" @click="emit('again')">{{ t('again') }}</button>
  </p>
</template>

<style scoped>
.fault {
  margin: 8px 0;
  padding: 8px 12px;
  border-left: 3px solid var(--tally);
  background: var(--tally-soft);
}
</style>
