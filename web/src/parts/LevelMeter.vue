<script setup lang="ts">
/** How loud it is: a bar with a mark where speech should reach. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'

/** Levels in dB below full scale, at most 0. */
const props = defineProps<{ name: string; rms: number; peak: number }>()
const { t } = useI18n()
const floor = -60
const share = (db: number) => Math.min(1, Math.max(0, 1 - db / floor))
const words = computed(() => t('level.now', { db: Math.round(Math.max(floor, props.rms)) }))
</script>

<template>
  <div
    class="meter"
    dir="ltr"
    role="meter"
    :aria-label="t('level.name', { name })"
    aria-valuemin="-60"
    aria-valuemax="0"
    :aria-valuenow="Math.round(Math.max(floor, rms))"
    :aria-valuetext="words"
  >
    <div class="bar" :style="{ transform: `scaleX(${share(rms)})` }" />
    <div class="peak" :class="{ tallying: peak > -1 }" :style="{ left: `${share(peak) * 100}%` }" />
    <div class="zone" />
  </div>
</template>

<style scoped>
.meter {
  position: relative;
  height: 14px;
  overflow: hidden;
  border: 1px solid var(--edge);
  border-radius: 2px;
  background: var(--fog);
}

.bar {
  position: absolute;
  inset: 0;
  transform-origin: left;
  background: var(--kelp);
}

.peak {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 2px;
  margin-left: -2px;
  background: var(--ink);
}

.peak.tallying {
  background: var(--tally);
}

/* Where speech should reach: -32 to -12 dB. */
.zone {
  position: absolute;
  bottom: 0;
  left: 46.7%;
  width: 33.3%;
  height: 3px;
  background: var(--ink-2);
}
</style>
