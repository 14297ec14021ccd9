<script setup lang="ts">
/** A lantern: the state of a lecture by shape, by fill, and by the words of its label. */
import { computed, useId } from 'vue'
import { useI18n } from 'vue-i18n'

export type LanternState = 'planned' | 'capturing' | 'missed' | 'off' | 'dark' | 'part_lit' | 'lit'

const props = withDefaults(
  defineProps<{
    state: LanternState
    can?: number
    of?: number
    size?: number
    /** Without a label of its own, where words beside it already say the same. */
    mute?: boolean
  }>(),
  { can: 0, of: 0, size: 26, mute: false },
)

const { t } = useI18n()
const clip = useId()
const share = computed(() =>
  props.state === 'lit' ? 1 : props.state === 'part_lit' && props.of > 0 ? Math.max(0.15, props.can / props.of) : 0,
)
const label = computed(() => t(`light.${props.state}`, { can: props.can, of: props.of }))
</script>

<template>
  <svg
    class="lantern"
    :class="state"
    :width="size * 0.9"
    :height="size * 1.05"
    viewBox="0 0 24 25"
    :role="mute ? undefined : 'img'"
    :aria-label="mute ? undefined : label"
    :aria-hidden="mute || undefined"
  >
    <clipPath :id="clip"><path d="M6.5 6.5h11l1.6 4.2v9.8h-14.2v-9.8z" /></clipPath>
    <rect
      v-if="share > 0"
      class="flame"
      x="4"
      width="16"
      :y="20.5 - 14 * share"
      :height="14 * share"
      :clip-path="`url(#${clip})`"
    />
    <path class="body" d="M8 3.5a4 4 0 0 1 8 0M6.5 6.5h11l1.6 4.2v9.8h-14.2v-9.8zM4.5 20.5h15v3.5h-15z" />
    <path v-if="state === 'off'" class="stroke" d="M3 25L21 5" />
    <circle v-if="state === 'capturing'" class="dot" cx="12" cy="14.5" r="3.2" />
  </svg>
</template>

<style scoped>
.lantern {
  overflow: visible;
  flex: none;
}

.body,
.stroke {
  fill: none;
  stroke: var(--ink-2);
  stroke-width: 1.5;
}

.flame {
  fill: var(--lamp);
}

.lit .body {
  stroke: var(--lamp-ink);
}

/* A gradient, since hundreds of filters would make a large board heavy to scroll. */
.lit {
  box-sizing: content-box;
  margin: -6px;
  padding: 6px;
  background: radial-gradient(closest-side, var(--lamp-glow), transparent);
}

.capturing .body {
  stroke: var(--tally);
  stroke-width: 2;
}

.dot {
  fill: var(--tally);
}

.missed .body {
  stroke-dasharray: 2.5 3;
}

.planned .body,
.off .body {
  opacity: 0.42;
}
</style>
