<script setup lang="ts">
/** One line of the strip page: slides hung at their moment, the sound as a band, the words under it. */
import { computed, ref, onMounted, onScopeDispose } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import type { Stretch } from '../../parts/kept'
import { timecode } from '../../parts/time'
import { band, withRoom, part, percent, type Line } from './lines'
import StripWords from './StripWords.vue'

const props = defineProps<{
  line: Line
  /** Of the whole recording. */
  length: number
  strip: Schemas['StripPage']
  peaks: Uint8Array
  struck: Stretch[]
  holes: Stretch[]
  markers: Schemas['Marker'][]
  selection: Stretch | undefined
  /** Of the playhead, when it is on this line. */
  position: number | undefined
  proposals: Schemas['ProposalMark'][]
  led: Stretch[]
  compared: Stretch[] | undefined
  hits: Schemas['Hit'][]
}>()

const { t } = useI18n()
const columns = 360
const root = ref<HTMLElement>()
const width = ref(640)
const slideWidth = 50

let watcher: ResizeObserver | undefined
onMounted(() => {
  watcher = new ResizeObserver(([e]) => e && (width.value = e.contentRect.width))
  if (root.value) watcher.observe(root.value)
})
onScopeDispose(() => watcher?.disconnect())

const path = computed(() => band(props.peaks, props.strip.window_ms, props.line, columns))
const cuts = computed(() => props.struck.map((s) => part(props.line, s)).filter((s) => s !== undefined))
const gaps = computed(() => props.holes.map((s) => part(props.line, s)).filter((s) => s !== undefined))
const flags = computed(() => props.markers.filter((m) => on(m.at_ms)))
const second = computed(() => props.led.map((s) => part(props.line, s)).filter((s) => s !== undefined))
const others = computed(() => (props.compared ?? []).map((s) => part(props.line, s)).filter((s) => s !== undefined))
const offered = computed(() =>
  props.proposals
    .filter((p) => !p.struck)
    .map((p) => part(props.line, p))
    .filter((s) => s !== undefined),
)
const box = (s: Stretch) => ({
  left: `${percent(props.line, s.start)}%`,
  width: `${percent(props.line, s.end) - percent(props.line, s.start)}%`,
})

const on = (ms: number) => ms >= props.line.start && ms < props.line.end
const slides = computed(() =>
  withRoom(
    props.strip.slides.filter((s) => on(s.at)),
    (s) => percent(props.line, s.at),
    slideWidth + 4,
    width.value,
  ),
)
/** until is when the slide after one begins. */
const until = (at: number) => props.strip.slides.find((s) => s.at > at)?.at ?? props.length
</script>

<template>
  <div ref="root" class="line">
    <div class="slides">
      <img
        v-for="s in slides"
        :key="s.at"
        :src="s.picture"
        :data-start="s.at"
        :data-end="until(s.at)"
        :alt="s.text"
        :title="s.text"
        draggable="false"
        :style="{ left: `min(${percent(line, s.at)}%, calc(100% - ${slideWidth}px))`, width: `${slideWidth}px` }"
      />
    </div>
    <div class="band" data-band>
      <svg :viewBox="`0 0 ${columns} 40`" preserveAspectRatio="none" aria-hidden="true">
        <path :d="path" />
      </svg>
      <i v-for="s in slides" :key="s.at" class="thread" :style="{ left: `${percent(line, s.at)}%` }" />
      <div v-for="g in gaps" :key="g.start" class="gap" :style="box(g)" />
      <i v-for="m in flags" :key="m.at_ms" class="flag" :style="{ left: `${percent(line, m.at_ms)}%` }" />
      <div v-for="o in offered" :key="o.start" class="offered" :style="box(o)" />
      <div v-for="c in cuts" :key="c.start" class="cut" :style="box(c)" />
      <div v-for="o in others" :key="o.start" class="compared" :style="box(o)" />
      <div v-for="s in second" :key="s.start" class="second" :style="box(s)">
        <span>{{ t('strip.second') }}</span>
      </div>
      <span
        v-for="h in hits"
        :key="`${h.where}${h.start}`"
        class="hit"
        :class="h.where"
        :title="
          t(h.where === 'perhaps' ? 'search_bench.hit_perhaps' : 'search_bench.hit', {
            at: timecode(h.start),
            text: h.text,
          })
        "
        :style="{ left: `${percent(line, h.start)}%` }"
      />
      <div v-if="selection" class="chosen" :style="box(selection)" />
      <div v-if="position !== undefined" class="head" :style="{ left: `${percent(line, position)}%` }" />
      <div v-if="line.share < 1" class="none" :style="{ left: `${line.share * 100}%` }" />
    </div>
    <StripWords :line="line" :cues="strip.cues" :selection="selection" :width="width" />
  </div>
</template>

<style scoped>
.line {
  position: relative;
  min-width: 0;
}

.slides {
  position: relative;
  height: 29px;
}

.slides img {
  position: absolute;
  bottom: 1px;
  height: 28px;
  border: 1px solid var(--rule-strong);
  border-radius: 1px;
  object-fit: cover;
  cursor: pointer;
}

.band {
  position: relative;
  height: 33px;
  cursor: text;
}

svg {
  width: 100%;
  height: 100%;
}

path {
  stroke: var(--ink);
  stroke-width: 0.62;
  opacity: 0.75;
}

.band > div,
.thread {
  position: absolute;
  top: 0;
  bottom: 0;
  pointer-events: none;
}

.thread {
  top: -2px;
  bottom: -16px;
  border-left: 1px solid var(--rule-strong);
}

.gap {
  border: solid var(--edge);
  border-width: 0 1px;
  background: repeating-linear-gradient(90deg, var(--shell) 0 5px, var(--rule-strong) 5px 6px);
}

.hit {
  position: absolute;
  z-index: 1;
  top: 0;
  bottom: -17px;
  width: 12px;
  margin-left: -2px;
  border: solid var(--kelp);
  border-width: 2px 0 2px 2px;
  pointer-events: none;
}

.hit.perhaps {
  border-style: dashed;
}

.hit.slide {
  top: -29px;
  bottom: auto;
  height: 28px;
  border-width: 2px 2px 0;
}

.flag {
  position: absolute;
  top: -6px;
  bottom: 0;
  border-left: 2px solid var(--ink);
  pointer-events: none;
}

.flag::before {
  content: '';
  position: absolute;
  top: 0;
  left: 0;
  border: solid transparent;
  border-width: 4px 0 4px 8px;
  border-left-color: var(--ink);
}

.cut {
  border: solid var(--ink-2);
  border-width: 0 2px;
  background:
    linear-gradient(var(--ink-2), var(--ink-2)) 0 50% / 100% 1.5px no-repeat,
    color-mix(in srgb, var(--shell) 78%, transparent);
}

.cut::after {
  content: '';
  position: absolute;
  inset: 0;
  background: var(--struck);
}

.second {
  border: solid var(--ink-2);
  border-width: 0 1px 2px;
}

.second span {
  position: absolute;
  right: 2px;
  bottom: 1px;
  overflow: hidden;
  max-width: 100%;
  color: var(--ink-2);
  font-size: 11px;
  line-height: 13px;
  background: var(--shell);
  white-space: nowrap;
}

.compared {
  top: -3px !important;
  bottom: -3px !important;
  border: 2px dashed var(--kelp);
}

.offered {
  border: dashed var(--edge);
  border-width: 1px 0;
  background: var(--struck);
}

.chosen {
  background: var(--kelp-soft);
  box-shadow:
    inset 2px 0 var(--kelp),
    inset -2px 0 var(--kelp);
}

.head {
  top: -4px !important;
  bottom: -4px !important;
  border-left: 2px solid var(--kelp);
}

.none {
  right: 0;
  background: var(--shell);
}
</style>
