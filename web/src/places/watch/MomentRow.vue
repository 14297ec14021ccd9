<script setup lang="ts">
/** A row of a list of moments: pressed, it leads to its own. */
import { timecode } from '../../parts/time'

defineProps<{ at: number; now: boolean }>()
defineEmits<{ seek: [] }>()
</script>

<template>
  <button type="button" :aria-current="now ? 'true' : undefined" @click="$emit('seek')">
    <span class="mono soft">{{ timecode(at) }}</span>
    <span><slot /></span>
  </button>
</template>

<style scoped>
button {
  display: grid;
  grid-template-columns: 44px 1fr;
  gap: 8px;
  width: 100%;
  min-height: 28px;
  padding: 4px 12px;
  border: 0;
  border-inline-start: 3px solid transparent;
  background: none;
  color: var(--ink);
  text-align: start;
  cursor: pointer;
  break-inside: avoid;
}

button:hover,
[aria-current] {
  background: var(--kelp-soft);
}

[aria-current] {
  border-inline-start-color: var(--kelp);
}

button:focus-visible {
  outline-offset: -2px;
}

@media print {
  [aria-current] {
    border-color: transparent;
    background: none;
  }
}
</style>
