<script setup lang="ts">
/** The pictures of a lecture, the first one in the slot, as they stand, with what stands on the larger one. */
import { useI18n } from 'vue-i18n'
import type { Arrangement } from './arranging'
import OnScreen, { type CaptionPlace, type CaptionSize } from './OnScreen.vue'
import SecondPicture from './SecondPicture.vue'

defineProps<{
  media: string
  /** What plays in the slot. */
  leader: HTMLVideoElement | undefined
  two: boolean
  arrangement: Arrangement
  /** The second one is the larger. */
  swapped: boolean
  blind: boolean
  slide?: string
  caption: string
  size: CaptionSize
  place: CaptionPlace
  fault: boolean
  waits: string
  fills: boolean
}>()
const { t } = useI18n()
</script>

<template>
  <div class="screens" :class="[two && arrangement, { two, fills, swapped: two && swapped }]">
    <div class="screen" :class="{ blind: blind && !slide }"><slot /></div>
    <div v-if="two && (arrangement !== 'alone' || swapped)" class="other">
      <SecondPicture :media="media" :leader="leader" :label="t('player.second')" />
    </div>
    <OnScreen
      :caption="caption"
      :size="size"
      :place="place"
      :fault="fault"
      :waits="waits"
      :slide="slide"
      :blind="blind"
    />
  </div>
</template>

<style scoped>
.screens {
  display: grid;
  gap: 8px;
  grid-template: 'big' / minmax(0, 1fr);
}

.screen,
.other {
  position: relative;
  display: grid;
  aspect-ratio: 16 / 9;
  overflow: hidden;
  border-radius: 4px;
  background: var(--well);
}

.screen,
.swapped .other,
.on-screen {
  grid-area: big;
}

.other,
.swapped .screen {
  grid-area: second;
  align-self: end;
}

.blind {
  aspect-ratio: 16 / 5;
}

.large {
  grid-template: 'big second' / 3fr 1fr;
}

.large.swapped {
  grid-template: 'second big' / 1fr 3fr;
}

.alike {
  grid-template: 'big second' / 1fr 1fr;
}

.inset:not(.swapped) .other,
.inset.swapped .screen {
  z-index: 1;
  width: 26%;
  margin: 0 2% 2% 0;
  border: 2px solid var(--shell);
  grid-area: big;
  justify-self: end;
}

.alone.swapped .screen {
  display: none;
}

:fullscreen > .screens,
.fills {
  flex: 1;
  min-height: 0;
}

:is(:fullscreen > .screens, .fills) > :is(.screen, .other) {
  height: 100%;
  min-height: 0;
  aspect-ratio: auto;
}

:fullscreen > .inset:not(.swapped) > .other,
:fullscreen > .inset.swapped > .screen {
  height: 26%;
}

.screen :slotted(video) {
  width: 100%;
  height: 100%;
  min-height: 0;
  object-fit: contain;
  cursor: pointer;
}

@container (max-width: 420px) {
  .large,
  .large.swapped,
  .alike {
    grid-template: 'big' 'second' / minmax(0, 1fr);
  }
}
</style>
