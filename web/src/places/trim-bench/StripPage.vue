<script setup lang="ts">
/**
 * The lecture as a page of lines: select by dragging like text, over line ends too; grip the edges of what is struck.
 */
import { computed, nextTick, ref } from 'vue'
import type { Schemas } from '../../api/client'
import type { Stretch } from '../../parts/kept'
import { timecode } from '../../parts/time'
import { fitting, linesOf, part, zoomed } from './lines'
import { useNear } from './near'
import { usePointing } from './pointing'
import StripLine from './StripLine.vue'
import StripMargin from './StripMargin.vue'

const props = defineProps<{
  length: number
  strip: Schemas['StripPage']
  peaks: Uint8Array
  struck: Stretch[]
  /** Where nothing was captured. */
  holes: Stretch[]
  markers: Schemas['Marker'][]
  proposals: Schemas['ProposalMark'][]
  position: number
  selection: Stretch | undefined
  /** Where the second picture leads. */
  led: Stretch[]
  /** What another version strikes, to be compared. */
  compared: Stretch[] | undefined
  /** Where what is looked for is said, or stands. */
  hits: Schemas['Hit'][]
}>()
const emit = defineEmits<{
  seek: [ms: number]
  select: [s: Stretch | undefined]
  strike: [s: Stretch]
  restore: [s: Stretch]
  leave: [p: Schemas['ProposalMark']]
  /** Select what lies between two pauses around a moment. */
  pauses: [ms: number]
}>()

const page = ref<HTMLElement>()
/** How much a line holds, when it is not as much as lets all be seen at once. */
const chosen = ref<number>()
const step = computed(() => chosen.value ?? fitting(props.length))
const lines = computed(() => linesOf(props.length, step.value))

/** middle is the moment in the middle of the window. */
function middle(): number {
  const row = rows.value.find((r) => r.getBoundingClientRect().bottom > window.innerHeight / 2)
  return lines.value[Number(row?.dataset.line ?? 0)]?.start ?? 0
}

/**
 * zoom keeps the moment where it is on the screen that the playhead is at, or when that is not to be seen the middle.
 */
async function zoom(by: -1 | 1) {
  const to = zoomed(props.length, step.value, by)
  if (to === step.value) return
  const top = (at: number) => {
    const n = lines.value.findIndex((l) => at < l.end)
    return rows.value.find((r) => Number(r.dataset.line) === n)?.getBoundingClientRect().top ?? 0
  }
  const seen = top(props.position) > 0 && top(props.position) < window.innerHeight
  const at = seen ? props.position : middle()
  const was = top(at)
  chosen.value = to === fitting(props.length) ? undefined : to
  await nextTick()
  window.scrollBy({ top: top(at) - was, behavior: 'instant' })
}
defineExpose({ zoom, step })

const rows = ref<HTMLElement[]>([])
const near = useNear(rows, step, () => lines.value.length)

const within = (line: Stretch, at: number) => (at >= line.start && at < line.end ? at : undefined)
const partsOf = (line: Stretch, all: Stretch[]) => all.filter((s) => part(line, s))
const { shown, atEdge, press, drag, release, twice } = usePointing(page, lines, props, {
  seek: (at) => emit('seek', at),
  select: (s) => emit('select', s),
  strike: (s) => emit('strike', s),
  restore: (s) => emit('restore', s),
  pauses: (at) => emit('pauses', at),
})
</script>

<template>
  <div
    ref="page"
    class="strip"
    dir="ltr"
    :class="{ edge: atEdge }"
    @pointerdown="press"
    @pointermove="drag"
    @pointerup="release"
    @pointercancel="release"
    @dblclick="twice"
  >
    <div v-for="(line, n) in lines" :key="line.start" ref="rows" class="row" :data-line="n">
      <span class="at mono">{{ timecode(line.start) }}</span>
      <StripLine
        v-if="near.has(n)"
        :line="line"
        :length="length"
        :strip="strip"
        :peaks="peaks"
        :struck="partsOf(line, shown)"
        :holes="partsOf(line, holes)"
        :markers="markers"
        :selection="selection && part(line, selection)"
        :position="within(line, position)"
        :proposals="proposals"
        :led="partsOf(line, led)"
        :compared="compared && partsOf(line, compared)"
        :hits="hits.filter((h) => h.start < line.end && h.start >= line.start)"
      />
      <div v-else class="later" data-band />
      <StripMargin
        :line="line"
        :holes="holes"
        :markers="markers"
        :proposals="proposals"
        :struck="struck"
        @seek="(at) => emit('seek', at)"
        @strike="(s) => emit('strike', s)"
        @restore="(s) => emit('restore', s)"
        @leave="(p) => emit('leave', p)"
      />
    </div>
  </div>
</template>

<style scoped>
.strip {
  user-select: none;
  touch-action: pan-y;
}

.edge :deep(.band) {
  cursor: ew-resize;
}

.row {
  display: grid;
  grid-template-columns: 46px minmax(0, 1fr) 124px;
  gap: 10px;
}

.later {
  height: 78px;
}

.at {
  padding-top: 36px;
  color: var(--ink-3);
  text-align: end;
}
</style>
