<script setup lang="ts">
/**
 * Plays a lecture: as captured with what is struck left out, as published, or live.
 * Its own clock is the clock of what is kept.
 */
import Hls from 'hls.js'
import { computed, onMounted, onScopeDispose, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { jump, lengthOf, toKept, toSource, type Stretch } from './kept'
import SecondPicture from './SecondPicture.vue'
import { useSize, type Size, type Sizes } from './size'
import { timecode } from './time'

const props = withDefaults(
  defineProps<{
    media: string
    /** What is kept, when not all of it is; sorted. */
    kept?: Stretch[]
    live?: boolean
    pictures?: boolean
    /** There is a second picture beside the first. */
    second?: boolean
    /** How much there is to choose from, where one can choose. */
    sizes?: Sizes
    /** Where to begin, in the clock of what is kept. */
    from?: number
    label: string
  }>(),
  { kept: undefined, live: false, pictures: true, second: false, sizes: undefined, from: 0 },
)
const emit = defineEmits<{ time: [source: number, kept: number]; ended: []; rested: [kept: number] }>()
const { t } = useI18n()

const video = ref<HTMLVideoElement>()
const frame = ref<HTMLElement>()
const playing = ref(false)
const waiting = ref(false)
const fault = ref(false)
const source = ref(0)
const duration = ref(0)
const rate = ref(1)
const volume = ref(1)

const { size, offered, listening, cost, choose } = useSize(() => props)

/** Which of two pictures is the larger one. */
const swapped = ref(false)
const rates = [0.75, 1, 1.25, 1.5, 1.75, 2]

const kept = computed<Stretch[]>(() => props.kept ?? [{ start: 0, end: duration.value }])
const length = computed(() => lengthOf(kept.value))
const at = computed(() => Math.min(length.value, toKept(kept.value, source.value)))

let hls: Hls | undefined
let tries = 0

function load(address: string, from: number | undefined) {
  hls?.destroy()
  hls = undefined
  fault.value = false
  const v = video.value
  if (!v || !address) return
  if (!Hls.isSupported()) {
    v.src = address
    return
  }
  hls = new Hls({
    // Two groups of pictures: less, and it would stop to wait for the next again and again.
    liveSyncDuration: 4,
    liveMaxLatencyDuration: Infinity,
    startPosition: from === undefined ? -1 : from / 1000,
    maxBufferLength: 30,
    backBufferLength: 90,
    // A lecture that has just begun has no segment yet, so its playlist is asked for again.
    manifestLoadPolicy: {
      default: {
        maxTimeToFirstByteMs: 10_000,
        maxLoadTimeMs: 20_000,
        timeoutRetry: { maxNumRetry: 4, retryDelayMs: 500, maxRetryDelayMs: 2000 },
        errorRetry: {
          maxNumRetry: props.live ? 30 : 6,
          retryDelayMs: 500,
          maxRetryDelayMs: 2000,
          shouldRetry: (policy, count) => count < (policy?.maxNumRetry ?? 0),
        },
      },
    },
  })
  hls.on(Hls.Events.ERROR, (_, data) => {
    if (!data.fatal) return
    if (data.type === Hls.ErrorTypes.MEDIA_ERROR && tries++ < 3) hls?.recoverMediaError()
    else if (data.type === Hls.ErrorTypes.NETWORK_ERROR && tries++ < 10) window.setTimeout(() => hls?.startLoad(), 1000)
    else fault.value = true
  })
  hls.on(Hls.Events.MANIFEST_PARSED, applySize)
  hls.on(Hls.Events.FRAG_BUFFERED, () => (tries = 0))
  hls.loadSource(address)
  hls.attachMedia(v)
}

/** The levels are sorted, the smallest first. */
function applySize() {
  if (!hls) return
  hls.nextLevel = size.value === 'small' ? 0 : size.value === 'large' ? hls.levels.length - 1 : -1
}

const address = () => (listening.value ? props.media.replace(/index\.m3u8$/, 'listen.m3u8') : props.media)

function setSize(s: Size) {
  const was = listening.value
  choose(s)
  if (was === listening.value) return applySize()
  const playingNow = playing.value
  load(address(), source.value)
  if (playingNow)
    video.value?.addEventListener('canplay', () => void video.value?.play().catch(() => undefined), { once: true })
}

onMounted(() => load(address(), props.live ? undefined : toSource(props.kept ?? [], props.from) || props.from))
watch(
  () => props.media,
  () => load(address(), source.value),
)

/** follow runs with every picture: what is struck is jumped over before it can be heard. */
function follow() {
  const v = video.value
  if (!v) return
  source.value = v.currentTime * 1000
  duration.value = Number.isFinite(v.duration)
    ? v.duration * 1000
    : v.seekable.length > 0
      ? v.seekable.end(v.seekable.length - 1) * 1000
      : 0
  if (!v.paused && props.kept) {
    const to = jump(props.kept, source.value + 15)
    const last = props.kept[props.kept.length - 1]
    if (to !== undefined && !v.seeking) v.currentTime = to / 1000
    else if (last && source.value >= last.end) v.pause()
  }
  emit('time', source.value, at.value)
}

let request = 0
const run = () => {
  follow()
  request = window.requestAnimationFrame(run)
}

function onPlay() {
  playing.value = true
  window.cancelAnimationFrame(request)
  run()
}

function onPause() {
  playing.value = false
  window.cancelAnimationFrame(request)
  follow()
  emit('rested', at.value)
}

/** seek goes to a moment of the source. */
function seek(ms: number) {
  if (video.value) video.value.currentTime = Math.max(0, ms) / 1000
  source.value = Math.max(0, ms)
}

function seekKept(ms: number) {
  seek(toSource(kept.value, Math.min(Math.max(0, ms), Math.max(0, length.value - 100))))
}

async function toggle() {
  const v = video.value
  if (!v) return
  if (!v.paused) return v.pause()
  if (at.value >= length.value - 100 && !props.live) seekKept(0)
  // What went by before somebody pressed play is not missed, but it is not now.
  if (props.live && v.played.length === 0) return toNow()
  await v.play().catch(() => undefined)
}

let heard = 0

/** hear plays a second to each side of a moment of what is kept. */
async function hear(kept: number) {
  const v = video.value
  if (!v) return
  const token = ++heard
  seekKept(Math.max(0, kept - 1000))
  await v.play().catch(() => undefined)
  const end = Math.min(length.value, kept + 1000)
  const watch = () => {
    if (token !== heard || v.paused) return
    if (at.value >= end - 20) v.pause()
    else window.requestAnimationFrame(watch)
  }
  watch()
}

function toNow() {
  const v = video.value
  if (v && hls?.liveSyncPosition) v.currentTime = hls.liveSyncPosition
  void v?.play().catch(() => undefined)
}

function setRate(r: number) {
  rate.value = r
  if (video.value) video.value.playbackRate = r
}

const faster = (by: number) => setRate(rates[Math.min(rates.length - 1, Math.max(0, rates.indexOf(rate.value) + by))]!)

function setVolume(v: number) {
  volume.value = v
  if (video.value) {
    video.value.volume = v
    video.value.muted = v === 0
  }
}

function full() {
  if (document.fullscreenElement) void document.exitFullscreen()
  else void frame.value?.requestFullscreen()
}

onScopeDispose(() => {
  window.cancelAnimationFrame(request)
  hls?.destroy()
})

defineExpose({ seek, seekKept, hear, toggle, faster, full, playing, at, source })
</script>

<template>
  <div ref="frame" class="player" role="group" :aria-label="label">
    <div class="screens" :class="{ two: second && !listening, swapped }">
      <div class="screen" :class="{ blind: !pictures || listening }">
        <video
          ref="video"
          playsinline
          preload="auto"
          :aria-label="label"
          @play="onPlay"
          @pause="onPause"
          @timeupdate="follow"
          @seeked="follow"
          @durationchange="follow"
          @waiting="waiting = true"
          @playing="waiting = false"
          @canplay="waiting = false"
          @ended="emit('ended')"
          @click="toggle"
        />
        <p v-if="!pictures || listening" class="words">{{ t('player.sound_only') }}</p>
        <p v-if="fault" class="words" role="alert">{{ t('player.fault') }}</p>
        <p v-else-if="waiting" class="words" role="status">{{ t('player.waiting') }}</p>
      </div>
      <div v-if="second && !listening" class="beside">
        <SecondPicture :media="media" :leader="video" :label="t('player.second')" />
        <button class="act quiet" type="button" @click="swapped = !swapped">{{ t('player.swap') }}</button>
      </div>
    </div>
    <div class="controls">
      <button
        class="act quiet"
        type="button"
        :aria-label="playing ? t('player.pause') : t('player.play')"
        @click="toggle"
      >
        <svg width="14" height="14" viewBox="0 0 14 14" aria-hidden="true">
          <path v-if="playing" d="M2 1h3.6v12H2zM8.4 1H12v12H8.4z" fill="currentColor" />
          <path v-else d="M2.5 1l10 6-10 6z" fill="currentColor" />
        </svg>
      </button>
      <input
        class="scrub"
        type="range"
        min="0"
        :max="Math.max(1, Math.round(length))"
        step="100"
        :value="Math.round(at)"
        :aria-label="t('player.place')"
        :aria-valuetext="t('player.at', { at: timecode(at), of: timecode(length) })"
        @input="seekKept(Number(($event.target as HTMLInputElement).value))"
      />
      <span class="mono time">{{ timecode(at) }} / {{ timecode(length) }}</span>
      <button v-if="live" class="act quiet" type="button" @click="toNow">{{ t('player.now') }}</button>
      <select
        :value="rate"
        :aria-label="t('player.speed')"
        @change="setRate(Number(($event.target as HTMLSelectElement).value))"
      >
        <option v-for="r in rates" :key="r" :value="r">{{ r }} ×</option>
      </select>
      <select
        v-if="offered.length > 0"
        :value="size"
        :aria-label="t('player.size')"
        @change="setSize(($event.target as HTMLSelectElement).value as Size)"
      >
        <option v-for="s in offered" :key="s" :value="s">
          {{ t(`player.size_${s}`, { mb: cost(s) ?? '' }) }}
        </option>
      </select>
      <input
        class="volume"
        type="range"
        min="0"
        max="1"
        step="0.05"
        :value="volume"
        :aria-label="t('player.volume')"
        @input="setVolume(Number(($event.target as HTMLInputElement).value))"
      />
      <button v-if="pictures" class="act quiet" type="button" :aria-label="t('player.full')" @click="full">
        <svg width="14" height="14" viewBox="0 0 14 14" aria-hidden="true">
          <path d="M1 5V1h4M9 1h4v4M13 9v4H9M5 13H1V9" fill="none" stroke="currentColor" stroke-width="1.8" />
        </svg>
      </button>
    </div>
    <slot />
  </div>
</template>

<style scoped>
.player:fullscreen {
  display: flex;
  flex-direction: column;
  background: var(--shell);
}

.player:fullscreen .screen {
  flex: 1;
  min-height: 0;
}

.screen {
  position: relative;
  display: grid;
  aspect-ratio: 16 / 9;
  overflow: hidden;
  border-radius: 4px;
  background: var(--well);
}

.blind {
  aspect-ratio: 16 / 5;
}

.two {
  display: grid;
  grid-template-columns: 3fr 1fr;
  gap: 8px;
  align-items: end;
}

.two.swapped {
  grid-template-columns: 1fr 3fr;
}

.beside {
  display: grid;
  gap: 6px;
}

.player:fullscreen .screens {
  flex: 1;
  min-height: 0;
}

.player:fullscreen .two .screen {
  height: 100%;
}

video {
  width: 100%;
  height: 100%;
  object-fit: contain;
  cursor: pointer;
}

.words {
  position: absolute;
  inset: auto 0 8px;
  margin: 0;
  color: #fff;
  text-align: center;
  text-shadow: 0 0 4px #000;
  pointer-events: none;
}

.controls {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  padding: 8px 0 0;
}

.act {
  min-width: 40px;
  padding: 7px 10px;
}

.scrub {
  flex: 1 1 90px;
  min-width: 60px;
}

.volume {
  width: 70px;
}

.player {
  container-type: inline-size;
}

@container (max-width: 420px) {
  .volume {
    display: none;
  }

  .scrub {
    flex-basis: 100%;
    order: -1;
  }

  .time {
    margin-right: auto;
  }

  .two,
  .two.swapped {
    grid-template-columns: 1fr;
  }
}

input[type='range'] {
  height: 24px;
  accent-color: var(--kelp);
}

select {
  min-height: 32px;
  border: 1px solid var(--edge);
  border-radius: 4px;
  background: var(--shell);
  color: var(--ink);
  font: inherit;
}
</style>
