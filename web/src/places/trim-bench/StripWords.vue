<script setup lang="ts">
/** The words under a line of the strip page, as many as have room; each can be chosen by itself. */
import { computed } from 'vue'
import type { Schemas } from '../../api/client'
import type { Stretch } from '../../parts/kept'
import { withRoom, percent, type Line } from './lines'

const props = defineProps<{
  line: Line
  cues: Schemas['StripPage']['cues']
  selection: Stretch | undefined
  /** Of the line, in pixels. */
  width: number
}>()
const wordWidth = 130

const words = computed(() => {
  const fit = withRoom(
    props.cues.filter((c) => c.start >= props.line.start && c.start < props.line.end),
    (c) => percent(props.line, c.start),
    wordWidth,
    props.width,
  )
  return fit.map((c, i) => ({
    ...c,
    until: fit[i + 1]?.start ?? props.line.end,
    each: c.text.split(' ').map((text, k) => ({ text, start: c.words[2 * k]!, end: c.words[2 * k + 1]! })),
  }))
})
const picked = (w: Stretch) => props.selection && w.start < props.selection.end && w.end > props.selection.start
</script>

<template>
  <div class="words">
    <p
      v-for="w in words"
      :key="w.start"
      :title="w.text"
      :data-line-start="w.start"
      :data-line-end="w.end"
      :style="{ left: `${percent(line, w.start)}%`, width: `${percent(line, w.until) - percent(line, w.start)}%` }"
    >
      <template v-for="(x, n) in w.each" :key="n">
        <span :data-start="x.start" :data-end="x.end" :class="{ picked: picked(x) }">{{ x.text }}</span>{{
          ' '
        }}</template
      >
    </p>
  </div>
</template>

<style scoped>
.words {
  position: relative;
  height: 16px;
  font: 12.5px/16px var(--serif);
  color: var(--ink-2);
}

.words p {
  position: absolute;
  margin: 0;
  padding-right: 10px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  cursor: text;
}

.words span:hover,
.words .picked {
  background: var(--kelp-soft);
}
</style>
