<script setup lang="ts">
/**
 * The frame on the picture of the screen: only what is inside leaves the computer. Drawn with the pointer, or moved
 * with the arrow keys.
 */
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Frame } from './feed'

const props = defineProps<{ frame: Frame | undefined; shape: number }>()
const emit = defineEmits<{ change: [f: Frame | undefined] }>()
const { t } = useI18n()
const area = ref<HTMLElement>()
const least = 0.08
const step = 0.02

/** The picture stands in a field of 16 to 9 with bars beside or above it. */
const inside = computed(() => {
  const field = 16 / 9
  return props.shape > field
    ? { width: '100%', height: `${(field / props.shape) * 100}%` }
    : { width: `${(props.shape / field) * 100}%`, height: '100%' }
})
const box = computed(() => {
  const f = props.frame ?? { x: 0, y: 0, width: 1, height: 1 }
  return { left: `${f.x * 100}%`, top: `${f.y * 100}%`, width: `${f.width * 100}%`, height: `${f.height * 100}%` }
})

let from: { x: number; y: number } | undefined
const clamp = (x: number, low = 0, high = 1) => Math.min(high, Math.max(low, x))

function at(e: PointerEvent) {
  const r = area.value!.getBoundingClientRect()
  return { x: clamp((e.clientX - r.left) / r.width), y: clamp((e.clientY - r.top) / r.height) }
}

function press(e: PointerEvent) {
  if (e.button !== 0) return
  area.value?.setPointerCapture(e.pointerId)
  from = at(e)
}

function drag(e: PointerEvent) {
  if (!from) return
  const to = at(e)
  const f = {
    x: Math.min(from.x, to.x),
    y: Math.min(from.y, to.y),
    width: Math.abs(to.x - from.x),
    height: Math.abs(to.y - from.y),
  }
  if (f.width > least && f.height > least) emit('change', f)
}

/** Arrows move the frame; with Shift they move its lower right corner. */
function key(e: KeyboardEvent) {
  const by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[e.key]
  if (!by) return
  e.preventDefault()
  const f = { ...(props.frame ?? { x: 0.05, y: 0.05, width: 0.9, height: 0.9 }) }
  if (e.shiftKey) {
    f.width = clamp(f.width + by[0]!, least, 1 - f.x)
    f.height = clamp(f.height + by[1]!, least, 1 - f.y)
  } else {
    f.x = clamp(f.x + by[0]!, 0, 1 - f.width)
    f.y = clamp(f.y + by[1]!, 0, 1 - f.height)
  }
  emit('change', f)
}
const percent = (x: number) => Math.round(x * 100)
const words = computed(() => {
  const f = props.frame
  return f
    ? t('desk.frame_at', {
        left: percent(f.x),
        top: percent(f.y),
        width: percent(f.width),
        height: percent(f.height),
      })
    : t('desk.frame_whole')
})
</script>

<template>
  <div
    ref="area"
    class="area"
    dir="ltr"
    :style="inside"
    @pointerdown="press"
    @pointermove="drag"
    @pointerup="from = undefined"
    @pointercancel="from = undefined"
  >
    <div
      class="frame"
      :style="box"
      tabindex="0"
      role="application"
      :aria-label="`${t('desk.frame_name')} ${words}`"
      @keydown="key"
    />
  </div>
</template>

<style scoped>
.area {
  position: relative;
  overflow: hidden;
  cursor: crosshair;
  touch-action: none;
}

.frame {
  position: absolute;
  border: 2px solid #fff;
  outline: 1px solid #000;
  box-shadow: 0 0 0 2000px rgb(0 0 0 / 62%);
}

.frame:focus-visible {
  outline: 4px solid var(--kelp);
}
</style>
