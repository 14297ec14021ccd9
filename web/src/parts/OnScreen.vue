<script setup lang="ts">
/** What stands on a picture: what is said, why it waits, the slide where only sound comes over the line. */
import { useI18n } from 'vue-i18n'

defineProps<{
  /** What is said now, how large, and where. */
  caption: string
  size: CaptionSize
  place: CaptionPlace
  /** Nothing can be played. */
  fault: boolean
  /** For what it waits; empty while it plays. */
  waits: string
  slide?: string
  /** There is no picture. */
  blind: boolean
}>()
const { t } = useI18n()
</script>

<script lang="ts">
export const captionSizes = ['small', 'middle', 'large'] as const
export const captionPlaces = ['below', 'above', 'under'] as const
export type CaptionSize = (typeof captionSizes)[number]
/** At the lower or the upper edge of the picture, or under it. */
export type CaptionPlace = (typeof captionPlaces)[number]
</script>

<template>
  <div class="on-screen">
    <img v-if="slide && !waits" class="slide" :src="slide" alt="" />
    <p v-if="caption && !waits && place !== 'under'" class="caption" :class="[size, place]">
      <span>{{ caption }}</span>
    </p>
    <p v-if="fault" class="words" role="alert">{{ t('player.fault') }}</p>
    <p v-else-if="waits" class="words" role="status">{{ t(`player.waits.${waits}`) }}</p>
    <p v-else-if="blind && !slide" class="words">{{ t('player.sound_only') }}</p>
  </div>
</template>

<style scoped>
.on-screen {
  position: relative;
  z-index: 2;
  overflow: hidden;
  pointer-events: none;
}

.slide {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  object-fit: contain;
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
}

.caption {
  --grows: 1;

  position: absolute;
  inset: auto 6% 5%;
  margin: 0;
  text-align: center;
  white-space: pre-line;
}

.caption.above {
  inset: 5% 6% auto;
}

.caption.small {
  --grows: 0.75;
}

.caption.large {
  --grows: 1.5;
}

.caption span {
  padding: 2px 8px;
  box-decoration-break: clone;
  background: rgb(0 0 0 / 78%);
  color: #fff;
  font-size: calc(var(--grows) * clamp(14px, 2.6cqi, 26px));
  line-height: 1.5;
}
</style>
