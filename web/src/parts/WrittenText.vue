<script setup lang="ts">
/**
 * A text that is written where it stands, and kept when one leaves it or presses Enter. What others make of it
 * meanwhile shows, unless it would overwrite what is being written.
 */
import { ref, watch } from 'vue'

const props = defineProps<{
  text: string
  label: string
  max: number
  /** It cannot be nothing: then it is as it was. */
  needed?: boolean
  /** It reads as a part of the page until one comes to it. */
  quiet?: boolean
  rows?: number
  placeholder?: string
}>()
const emit = defineEmits<{ write: [text: string] }>()
const written = ref(props.text)
let sent = ''
watch(
  () => props.text,
  (now, was) => {
    if (written.value === was || written.value === sent) written.value = now
  },
)

function keep() {
  if (props.needed && written.value.trim() === '') written.value = props.text
  else if (written.value !== props.text) emit('write', (sent = written.value))
}

function key(e: Event) {
  if (!props.rows && e instanceof KeyboardEvent && e.key === 'Enter') (e.target as HTMLElement).blur()
}
</script>

<template>
  <el-input
    v-model="written"
    :class="{ quiet }"
    :type="rows ? 'textarea' : 'text'"
    :rows="rows"
    :maxlength="max"
    :aria-label="label"
    :placeholder="placeholder"
    :validate-event="false"
    @change="keep"
    @keydown="key"
  />
</template>
