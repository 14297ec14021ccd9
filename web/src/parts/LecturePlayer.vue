<script setup lang="ts">
/**
 * Plays a lecture: as captured with what is struck left out, as published, or live.
 * Its own clock is the clock of what is kept.
 */
import { computed, onMounted, ref, watch } from 'vue'
import { useGain } from './gain'
import { standing, type Along } from './along'
import { useArranging } from './arranging'
import { toSource, type Stretch } from './kept'
import { usePlaying } from './playing'
import PlayerControls from './PlayerControls.vue'
import type { CaptionPlace, CaptionSize } from './OnScreen.vue'
import PlayerScreens from './PlayerScreens.vue'
import { useSize, type Size, type Sizes } from './size'
import { useStream } from './stream'

const props = withDefaults(
  defineProps<{
    media: string
    /** What is published at that address: of another one it plays on at `from`. */
    edition?: string
    /** What is kept, when not all of it is; sorted. */
    kept?: Stretch[]
    live?: boolean
    /** What was live has ended: there is no now to go to. */
    over?: boolean
    pictures?: boolean
    /** There is a second picture beside the first. */
    second?: boolean
    /** How much there is to choose from, where one can choose. */
    sizes?: Sizes
    /** Where to begin, in the clock of what is kept. */
    from?: number
    /** By how many dB the sound is played louder or quieter. */
    gain?: number
    /** Where the second picture leads, on the clock of what plays. */
    led?: Stretch[]
    label: string
    /** What is said now, to stand on the picture, how large and where. */
    caption?: string
    captionSize?: CaptionSize
    captionPlace?: CaptionPlace
    /** What stands along it, to be shown below its place. */
    along?: Along
    /** It is as high as there is room, not as its picture would have it. */
    fills?: boolean
  }>(),
  {
    caption: '',
    captionSize: 'middle',
    captionPlace: 'below',
    fills: false,
    edition: '',
    gain: 0,
    led: undefined,
    kept: undefined,
    live: false,
    over: false,
    pictures: true,
    second: false,
    sizes: undefined,
    along: undefined,
    from: 0,
  },
)
const emit = defineEmits<{
  time: [source: number, kept: number]
  ended: []
  rested: [kept: number]
  gone: []
  sought: []
}>()

const video = ref<HTMLVideoElement>()
const frame = ref<HTMLElement>()
/** There is no picture to go on with; at first there is none at all. */
const waiting = ref(true)
/** It waits since someone went elsewhere in it, which the line is not to blame for. */
const sought = ref(false)

const { size, offered, listening, cost, bytes, choose } = useSize(() => props)

const louder = useGain(video, () => props.gain)
const { load, latest, fault, waitsFor } = useStream(
  video,
  () => props.live,
  size,
  () => {
    lost = true
    emit('gone')
  },
)
const {
  playing,
  source,
  rate,
  rates,
  behind,
  volume,
  length,
  at,
  follow,
  onPlay,
  onPause,
  seek,
  seekKept,
  toggle,
  hear,
  hearOut,
  toNow,
  catchUp,
  setRate,
  faster,
  setVolume,
} = usePlaying(
  video,
  { kept: () => props.kept, live: () => props.live, latest },
  {
    time: (now, kept) => emit('time', now, kept),
    rested: (kept) => emit('rested', kept),
    begun: louder,
    sought: () => emit('sought'),
  },
)

const { arrangement, swapped, swap, next } = useArranging(
  () => props.led?.some((s) => s.start <= source.value && source.value < s.end) ?? false,
)
const two = computed(() => props.second && !listening.value)
/** For what it waits; empty while it plays. */
const waits = computed(() =>
  !waiting.value ? '' : sought.value && waitsFor.value === 'line' ? 'first' : waitsFor.value,
)
/** What stands on the picture that does not come over the line. */
const slide = computed(() => (listening.value ? standing(props.along?.slides ?? [], at.value)?.picture : undefined))
/** Whether the browser has small windows. */
const smallWindow = document.pictureInPictureEnabled
/** What stood at the address is gone, so another one is taken. */
let lost = false

const address = () => (listening.value ? props.media.replace(/index\.m3u8$/, 'listen.m3u8') : props.media)

function seeking() {
  sought.value = true
  emit('sought')
}

/** setSize begins anew in another size, where it stands: to switch within a stream hangs now and then. */
function setSize(s: Size) {
  if (s === size.value) return
  choose(s)
  beginAt(source.value)
}

/** beginAt begins the stream anew at a moment, and plays on if it played. */
function beginAt(ms: number) {
  const playingNow = playing.value
  source.value = ms
  load(address(), ms)
  if (playingNow)
    video.value?.addEventListener('canplay', () => void video.value?.play().catch(() => undefined), { once: true })
}

onMounted(() => {
  load(address(), props.live ? undefined : toSource(props.kept ?? [], props.from) || props.from)
  // Whoever comes to a lecture under way has pressed something to get here: it plays.
  if (props.live) video.value?.addEventListener('canplay', toNow, { once: true })
})
watch(
  () => [props.media, props.edition] as const,
  ([, edition], [, was]) => {
    if (edition !== was) beginAt(props.from)
    // The same edition at another address plays on where it is.
    else if (!edition || lost) load(address(), source.value)
    lost = false
  },
)

/** small puts what plays into a small window of its own, or back. */
function small() {
  if (document.pictureInPictureElement) void document.exitPictureInPicture()
  else void video.value?.requestPictureInPicture().catch(() => undefined)
}

function full() {
  if (document.fullscreenElement) void document.exitFullscreen()
  else void frame.value?.requestFullscreen()
}

defineExpose({
  swap,
  arrange: next,
  seek,
  seekKept,
  hear,
  hearOut,
  toggle,
  faster,
  full,
  small,
  playing,
  rate,
  behind,
  catchUp,
  length,
  at,
  source,
  bytes,
})
</script>

<template>
  <div ref="frame" class="player" :class="{ fills }" role="group" :aria-label="label">
    <PlayerScreens
      :media="media"
      :leader="video"
      :two="two"
      :arrangement="arrangement"
      :swapped="swapped"
      :blind="!pictures || listening"
      :slide="slide"
      :caption="caption"
      :size="captionSize"
      :place="captionPlace"
      :fault="Boolean(fault)"
      :waits="waits"
      :fills="fills"
    >
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
        @seeking="seeking"
        @waiting="waiting = true"
        @playing="waiting = sought = false"
        @canplay="waiting = sought = false"
        @emptied="waiting = true"
        @ended="emit('ended')"
        @click="toggle"
      />
    </PlayerScreens>
    <p v-if="captionPlace === 'under' && caption" class="under" :class="captionSize">{{ caption }}</p>
    <PlayerControls
      :playing="playing"
      :at="at"
      :length="length"
      :live="live && !over"
      :pictures="pictures"
      :rate="rate"
      :rates="rates"
      :sizes="offered"
      :size="size"
      :cost="cost"
      :volume="volume"
      :along="along"
      :arrangement="two ? arrangement : undefined"
      :small="pictures && !listening && smallWindow"
      @arrange="(a) => (arrangement = a)"
      @swap="swap"
      @small="small"
      @toggle="toggle"
      @seek="seekKept"
      @now="toNow"
      @rate="setRate"
      @size="setSize"
      @volume="setVolume"
      @full="full"
    />
    <slot />
  </div>
</template>

<style scoped>
.player:fullscreen,
.fills {
  display: flex;
  flex-direction: column;
  min-height: 0;
  background: var(--shell);
}

.under {
  min-height: 3em;
  margin: 6px 0 0;
  text-align: center;
  white-space: pre-line;
}

.under.small {
  font-size: 14px;
}

.under.middle {
  font-size: 18px;
}

.under.large {
  font-size: 26px;
}

.player {
  container-type: inline-size;
}
</style>
