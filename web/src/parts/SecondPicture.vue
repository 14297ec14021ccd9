<script setup lang="ts">
/**
 * A second picture in step with the first: it follows the clock of the player. A small drift
 * is made up by a slightly other speed, a larger one by a jump.
 */
import Hls from 'hls.js'
import { onMounted, onScopeDispose, ref, watch } from 'vue'

const props = defineProps<{ media: string; leader: HTMLVideoElement | undefined; label: string }>()
const video = ref<HTMLVideoElement>()
let hls: Hls | undefined

/**
 * Drift that is left alone, and drift that is jumped over, in seconds; and the share of speed that makes up the rest.
 */
const small = 0.015
const large = 0.2
const share = 0.02

function load() {
  hls?.destroy()
  const v = video.value
  if (!v) return
  const address = props.media.replace(/index\.m3u8$/, 'second.m3u8')
  if (!Hls.isSupported()) {
    v.src = address
    return
  }
  hls = new Hls({ maxBufferLength: 30, backBufferLength: 60, startPosition: props.leader?.currentTime ?? -1 })
  hls.on(Hls.Events.ERROR, (_, data) => {
    if (!data.fatal) return
    if (data.type === Hls.ErrorTypes.MEDIA_ERROR) hls?.recoverMediaError()
    else window.setTimeout(() => hls?.startLoad(), 1000)
  })
  hls.loadSource(address)
  hls.attachMedia(v)
}

function follow() {
  const v = video.value
  const l = props.leader
  if (!v || !l || v.readyState === 0) return
  const drift = v.currentTime - l.currentTime
  if (Math.abs(drift) > large) {
    if (!v.seeking) v.currentTime = l.currentTime
    v.playbackRate = l.playbackRate
  } else if (l.paused) {
    if (Math.abs(drift) > small && !v.seeking) v.currentTime = l.currentTime
  } else {
    v.playbackRate = l.playbackRate * (Math.abs(drift) < small ? 1 : drift > 0 ? 1 - share : 1 + share)
  }
  if (l.paused !== v.paused) {
    if (l.paused) v.pause()
    else void v.play().catch(() => undefined)
  }
}

const timer = window.setInterval(follow, 100)
onMounted(load)
watch(() => props.media, load)
onScopeDispose(() => {
  window.clearInterval(timer)
  hls?.destroy()
})
</script>

<template>
  <video ref="video" muted playsinline preload="auto" :aria-label="label" />
</template>

<style scoped>
video {
  width: 100%;
  height: 100%;
  border-radius: 4px;
  background: var(--well);
  object-fit: contain;
}
</style>
