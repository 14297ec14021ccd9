<script setup lang="ts">
/** What is captured, as it will look: the screen with its frame, and the camera beside it. */
import { onScopeDispose, ref, watchEffect, type Ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Frame } from './feed'
import FrameBox from './FrameBox.vue'
import type { Eye, Sources } from './sources'

const props = defineProps<{
  sources: Sources
  videos: Record<Eye, Ref<HTMLVideoElement | undefined>>
  sign: string
  /** That nothing the microphone hears is captured. */
  muted: string
}>()
const { t } = useI18n()
const eyes = ['screen', 'camera'] as const
/** Width by height of what the screen shows, to lay the frame over it. */
const shape = ref(16 / 9)

watchEffect(() => {
  for (const eye of eyes) {
    const v = props.videos[eye].value
    const s = props.sources.preview[eye].value
    if (v && v.srcObject !== (s ?? null)) v.srcObject = s ?? null
  }
})
const measure = (e: Event) => {
  const v = e.target as HTMLVideoElement
  if (v.videoHeight > 0) shape.value = v.videoWidth / v.videoHeight
}
const set = (eye: Eye) => (el: unknown) => {
  const video = props.videos[eye] // a ref that its owner holds
  video.value = (el as HTMLVideoElement | null) ?? undefined
}
const reframe = (f: Frame | undefined) => {
  const { frame } = props.sources
  frame.value = f
}
onScopeDispose(() => {
  for (const eye of eyes) {
    const video = props.videos[eye]
    video.value = undefined
  }
})
</script>

<template>
  <div class="pictures" :class="[sources.kind.value]">
    <template v-for="eye in eyes" :key="eye"
      ><div v-if="sources.preview[eye].value" class="picture" :class="eye">
        <video
          :ref="set(eye)"
          autoplay
          muted
          playsinline
          :aria-label="t(`desk.preview_${eye}`)"
          @resize="eye === 'screen' && measure($event)"
          @loadedmetadata="eye === 'screen' && measure($event)"
        />
        <FrameBox
          v-if="eye === 'screen' && sources.framing.value && sources.canFrame"
          :frame="sources.frame.value"
          :shape="shape"
          @change="reframe"
        /></div
    ></template>
    <p v-if="sources.kind.value === 'none'" class="picture nothing">{{ t('desk.no_picture') }}</p>
    <p v-if="muted" class="on muted" role="status">{{ muted }}</p>
    <p v-if="sign" class="on"><span class="dot" /> {{ sign }}</p>
  </div>
</template>

<style scoped>
.pictures {
  position: relative;
  display: grid;
  gap: 8px;
}

.both {
  grid-template-columns: 3fr 1fr;
  align-items: end;
}

.picture {
  position: relative;
  display: grid;
  aspect-ratio: 16 / 9;
  max-height: 52vh;
  width: 100%;
  margin: 0;
  place-items: center;
  overflow: hidden;
  border-radius: 4px;
  background: var(--well);
  color: #fff;
}

video {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  object-fit: contain;
}

.nothing {
  font: 18px var(--serif);
}

.on {
  position: absolute;
  top: 12px;
  inset-inline-start: 12px;
  display: flex;
  align-items: center;
  gap: 8px;
  margin: 0;
  padding: 4px 12px;
  border-radius: 3px;
  background: #fff;
  color: #b3361f;
  font-weight: 700;
}

.muted {
  top: auto;
  bottom: 12px;
}

.dot {
  width: 11px;
  height: 11px;
  border-radius: 50%;
  background: #b3361f;
}

@media (max-width: 600px) {
  .both {
    grid-template-columns: 1fr;
  }
}
</style>
