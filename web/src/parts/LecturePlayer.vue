<script setup lang="ts">
/**
 * Plays a lecture: as captured with what is struck left out, as published, or live.
 * Its own clock is the clock of what is kept.
 */
import { computed, onMounted, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useGain } from './gain'
import { standing, type Along } from './along'
import { toSource, type Stretch } from './kept'
import { rates, usePlaying } from './playing'
import PlayerControls from './PlayerControls.vue'
import SecondPicture from './SecondPicture.vue'
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
    /** What is said now, to stand on the picture. */
    caption?: string
    /** What stands along it, to be shown below its place. */
    along?: Along
    /** It is as high as there is room, not as its picture would have it. */
    fills?: boolean
  }>(),
  {
    caption: '',
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
const { t } = useI18n()

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

/** Which of two pictures is the larger one: as the recording says, unless someone changed places. */
const swappedByHand = ref(false)
const leads = computed(() => props.led?.some((s) => s.start <= source.value && source.value < s.end) ?? false)
const swapped = computed(() => leads.value !== swappedByHand.value)
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

defineExpose({ seek, seekKept, hear, hearOut, toggle, faster, full, small, playing, rate, at, source, bytes })
</script>

<template>
  <div ref="frame" class="player" :class="{ fills }" role="group" :aria-label="label">
    <div class="screens" :class="{ two: second && !listening, swapped }">
      <div class="screen" :class="{ blind: (!pictures || listening) && !slide }">
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
        <p v-if="caption && !waiting" class="caption">
          <span>{{ caption }}</span>
        </p>
        <p v-if="fault" class="words" role="alert">{{ t('player.fault') }}</p>
        <p v-else-if="waiting" class="words" role="status">
          {{ t(`player.waits.${sought && waitsFor === 'line' ? 'first' : waitsFor}`) }}
        </p>
        <img v-if="slide && !waiting" class="slide" :src="slide" alt="" />
        <p v-else-if="!pictures || listening" class="words">{{ t('player.sound_only') }}</p>
      </div>
      <div v-if="second && !listening" class="beside">
        <SecondPicture :media="media" :leader="video" :label="t('player.second')" />
        <el-button @click="swappedByHand = !swappedByHand">{{ t('player.swap') }}</el-button>
      </div>
    </div>
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
      :small="pictures && !listening && smallWindow"
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

:is(.player:fullscreen, .fills) .screens {
  flex: 1;
  min-height: 0;
}

.fills .screen,
.player:fullscreen .two .screen {
  height: 100%;
}

.fills .screen {
  aspect-ratio: auto;
}

video {
  width: 100%;
  height: 100%;
  object-fit: contain;
  cursor: pointer;
}

.slide {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  object-fit: contain;
  pointer-events: none;
}

.words {
  position: absolute;
  inset: auto 0 8px;
  width: fit-content;
  max-width: 92%;
  margin: 0 auto;
  padding: 2px 10px;
  border-radius: 4px;
  background: rgb(0 0 0 / 78%);
  color: #fff;
  text-align: center;
  pointer-events: none;
}

.caption {
  position: absolute;
  inset: auto 6% 5%;
  margin: 0;
  text-align: center;
  white-space: pre-line;
  pointer-events: none;
}

.caption span {
  padding: 2px 8px;
  box-decoration-break: clone;
  background: rgb(0 0 0 / 78%);
  color: #fff;
  font-size: clamp(13px, 2.6cqi, 24px);
  line-height: 1.5;
}

.player {
  container-type: inline-size;
}

@container (max-width: 420px) {
  .two,
  .two.swapped {
    grid-template-columns: 1fr;
  }
}
</style>
