<script setup lang="ts">
/** How many of something there were in each minute or so, as bars on a line of time. What they say stands beside. */
import { computed } from 'vue'

const props = defineProps<{
  /** Where each bar stands, in milliseconds, and how high it is. */
  bars: { at: number; n: number }[]
  from: number
  /** How long each is for. */
  bin: number
  until: number
  label: string
  /** The least that the highest stands for, so that one alone is not a tower. */
  least?: number
}>()
const high = computed(() => Math.max(props.least ?? 3, ...props.bars.map((b) => b.n)))
const whole = computed(() => Math.max(1, props.until - props.from))
const drawn = computed(() =>
  props.bars
    .filter((b) => b.n > 0)
    .map((b) => ({
      key: b.at,
      x: (100 * (b.at - props.from)) / whole.value,
      w: Math.max(0.6, (100 * Math.min(props.bin, props.until - b.at)) / whole.value - 0.15),
      h: (28 * b.n) / high.value,
    })),
)
</script>

<template>
  <svg viewBox="0 0 100 30" preserveAspectRatio="none" role="img" :aria-label="label">
    <rect x="0" y="29.4" width="100" height="0.6" class="ground" />
    <rect v-for="b in drawn" :key="b.key" :x="b.x" :y="29.4 - b.h" :width="b.w" :height="b.h" class="bar" />
  </svg>
</template>

<style scoped>
svg {
  display: block;
  width: 100%;
  height: 44px;
}

.ground {
  fill: var(--rule-strong);
}

.bar {
  fill: var(--kelp);
}
</style>
