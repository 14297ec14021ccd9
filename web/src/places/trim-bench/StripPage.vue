<script setup lang="ts">
/**
 * The lecture as a page of lines: select by dragging like text, over line ends too; grip the edges of what is struck.
 */
import { computed, nextTick, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import type { Stretch } from '../../parts/kept'
import { timecode } from '../../parts/time'
import { fitting, linesOf, part, zoomed } from './lines'
import { useNear } from './near'
import { both } from './selecting'
import StripLine from './StripLine.vue'

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
const { t } = useI18n()

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
/** An edge of a struck stretch that is being moved: the stretch, which edge, and where it is now. */
const grip = ref<{ stretch: Stretch; edge: 'start' | 'end'; at: number }>()
const shown = computed(() =>
  props.struck.map((s) =>
    grip.value && s.start === grip.value.stretch.start ? { ...s, [grip.value.edge]: grip.value.at } : s,
  ),
)

let anchor = 0
let down: { x: number; y: number; moved: boolean } | undefined
const nearEdge = 7 // pixels
const atEdge = ref(false)

function momentAt(e: PointerEvent): number {
  const bands = [...(page.value?.querySelectorAll<HTMLElement>('[data-band]') ?? [])]
  let best = bands[0]
  let gap = Infinity
  for (const b of bands) {
    const r = b.getBoundingClientRect()
    const d = e.clientY < r.top ? r.top - e.clientY : Math.max(0, e.clientY - r.bottom)
    if (d < gap) [gap, best] = [d, b]
  }
  const line = lines.value[best ? bands.indexOf(best) : 0]
  if (!best || !line) return 0
  const r = best.getBoundingClientRect()
  const share = Math.min(1, Math.max(0, (e.clientX - r.left) / r.width))
  return Math.min(props.length, Math.round(line.start + (line.end - line.start) * share))
}

function edgeNear(at: number): typeof grip.value {
  const band = page.value?.querySelector<HTMLElement>('[data-band]')
  const line = lines.value[0]
  if (!band || !line) return undefined
  const reach = (nearEdge / band.getBoundingClientRect().width) * (line.end - line.start)
  for (const stretch of props.struck) {
    if (Math.abs(stretch.start - at) < reach && stretch.start > 0) return { stretch, edge: 'start', at: stretch.start }
    if (Math.abs(stretch.end - at) < reach && stretch.end < props.length)
      return { stretch, edge: 'end', at: stretch.end }
  }
  return undefined
}

/** What was pressed on that stands for a stretch: a slide, or a word. */
function stretchAt(e: PointerEvent): Stretch | undefined {
  const it = (e.target as Element).closest<HTMLElement>('[data-start]')
  return it ? { start: Number(it.dataset.start), end: Number(it.dataset.end) } : undefined
}

/** Twice selects more: all that is said in a line of words, or what lies between two pauses. */
function twice(e: MouseEvent) {
  const target = e.target as Element
  const words = target.closest<HTMLElement>('[data-line-start]')
  if (words) emit('select', { start: Number(words.dataset.lineStart), end: Number(words.dataset.lineEnd) })
  else if (target.closest('[data-band]')) emit('pauses', anchor)
}

let from: Stretch | undefined // a slide or a word with which a selection began

function press(e: PointerEvent) {
  if (e.button !== 0) return
  from = stretchAt(e)
  if (from) {
    // With shift, what is selected already grows.
    emit('select', e.shiftKey && props.selection ? both(props.selection, from) : from)
    e.preventDefault()
    return
  }
  if (!(e.target as Element).closest('[data-band]')) return
  page.value?.setPointerCapture(e.pointerId)
  anchor = momentAt(e)
  down = { x: e.clientX, y: e.clientY, moved: false }
  grip.value = edgeNear(anchor)
}

function drag(e: PointerEvent) {
  if (from) {
    const to = e.buttons === 1 ? stretchAt(e) : undefined
    if (to) emit('select', both(from, to))
    return
  }
  if (!down) {
    atEdge.value = edgeNear(momentAt(e)) !== undefined
    return
  }
  if (Math.hypot(e.clientX - down.x, e.clientY - down.y) > 3) down.moved = true
  if (!down.moved) return
  const at = momentAt(e)
  const g = grip.value
  if (g) g.at = g.edge === 'start' ? Math.min(at, g.stretch.end - 200) : Math.max(at, g.stretch.start + 200)
  else emit('select', { start: Math.min(anchor, at), end: Math.max(anchor, at) })
}

function release() {
  from = undefined
  if (!down) return
  const g = grip.value
  if (g && down.moved) {
    const moved = { start: Math.min(g.at, g.stretch[g.edge]), end: Math.max(g.at, g.stretch[g.edge]) }
    const larger = g.edge === 'start' ? g.at < g.stretch.start : g.at > g.stretch.end
    if (moved.end > moved.start) {
      if (larger) emit('strike', moved)
      else emit('restore', moved)
    }
  } else if (!down.moved) {
    emit('select', undefined)
    emit('seek', anchor)
  }
  grip.value = undefined
  down = undefined
}

/** What stands in the margin of a line: proposals that are open, and what is struck, where each begins. */
const margins = computed(() =>
  lines.value.map((line) => {
    const on = (s: Stretch) => s.start >= line.start && s.start < line.end
    return {
      holes: props.holes.filter(on),
      markers: props.markers.filter((m) => m.at_ms >= line.start && m.at_ms < line.end),
      open: props.proposals.filter((p) => !p.struck && on(p)),
      struck: props.struck.filter(on).map((s) => ({
        ...s,
        why: props.proposals.find((p) => p.struck && p.start < s.end && p.end > s.start)?.why ?? '',
      })),
    }
  }),
)
const name = (why: string) => (why ? t(`why.${why}`) : t('why.hand'))
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
      <ul class="margin plain">
        <li v-for="h in margins[n]?.holes" :key="`h${h.start}`">
          {{ t('strip.hole') }} <b>{{ timecode(h.end - h.start) }}</b>
        </li>
        <li v-for="m in margins[n]?.markers" :key="`m${m.at_ms}`">
          <el-button link class="marker" @click="emit('seek', m.at_ms)">
            {{ m.pause_ms ? t('strip.pause', { n: timecode(m.pause_ms) }) : m.word || t('strip.marker') }}
          </el-button>
        </li>
        <li v-for="s in margins[n]?.struck" :key="`s${s.start}`">
          <s>{{ name(s.why) }}</s> <b>{{ timecode(s.end - s.start) }}</b>
          <el-button
            link
            :aria-label="t('strip.restore_it', { name: name(s.why), at: timecode(s.start) })"
            @click="emit('restore', s)"
          >
            {{ t('strip.restore') }}
          </el-button>
        </li>
        <li v-for="p in margins[n]?.open" :key="`p${p.start}`" class="open">
          {{ name(p.why) }} <b>{{ timecode(p.end - p.start) }}</b>
          <span class="both">
            <el-button
              link
              :aria-label="t('strip.strike_it', { name: name(p.why), at: timecode(p.start) })"
              @click="emit('strike', p)"
            >
              {{ t('strip.strike') }}
            </el-button>
            <el-button
              link
              :aria-label="t('strip.leave_it', { name: name(p.why), at: timecode(p.start) })"
              @click="emit('leave', p)"
            >
              {{ t('strip.leave') }}
            </el-button>
          </span>
        </li>
      </ul>
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

.margin {
  padding-top: 28px;
  font-size: 13px;
  line-height: 1.3;
}

.margin .el-button {
  margin-inline-start: 6px;
}

.both .el-button,
.margin .marker {
  margin: 0;
}

.margin li + li {
  margin-top: 3px;
}

.both {
  display: flex;
  gap: 10px;
}
</style>
