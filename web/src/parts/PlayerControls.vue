<script setup lang="ts">
/** Play, place, speed, size, loudness: what one holds in the hand while a lecture plays. */
import { useI18n } from 'vue-i18n'
import type { Along } from './along'
import { arrangements, type Arrangement } from './arranging'
import ScrubLine from './ScrubLine.vue'
import type { Size } from './size'
import { timecode } from './time'

defineProps<{
  playing: boolean
  /** Where it is, and how long, in milliseconds of what is kept. */
  at: number
  length: number
  live: boolean
  pictures: boolean
  rate: number
  rates: number[]
  sizes: Size[]
  size: Size
  cost: (s: Size) => string | undefined
  volume: number
  along?: Along
  /** How two pictures stand, when there are two. */
  arrangement?: Arrangement
  /** It can be put into a small window of its own. */
  small?: boolean
}>()
const emit = defineEmits<{
  toggle: []
  seek: [ms: number]
  now: []
  rate: [r: number]
  size: [s: Size]
  volume: [v: number]
  full: []
  arrange: [a: Arrangement]
  swap: []
  small: []
}>()
const { t } = useI18n()
</script>

<template>
  <div class="controls" dir="ltr">
    <el-button :aria-label="playing ? t('player.pause') : t('player.play')" @click="emit('toggle')">
      <svg width="14" height="14" viewBox="0 0 14 14" aria-hidden="true">
        <path v-if="playing" d="M2 1h3.6v12H2zM8.4 1H12v12H8.4z" fill="currentColor" />
        <path v-else d="M2.5 1l10 6-10 6z" fill="currentColor" />
      </svg>
    </el-button>
    <ScrubLine :at="at" :length="length" :along="along" @seek="(ms) => emit('seek', ms)" />
    <span class="mono time">{{ timecode(at) }} / {{ timecode(length) }}</span>
    <el-button v-if="live" @click="emit('now')">{{ t('player.now') }}</el-button>
    <select
      :value="rate"
      :aria-label="t('player.speed')"
      @change="emit('rate', Number(($event.target as HTMLSelectElement).value))"
    >
      <option v-for="r in rates" :key="r" :value="r">{{ r }} ×</option>
    </select>
    <select
      v-if="sizes.length > 0"
      :value="size"
      :aria-label="t('player.size')"
      @change="emit('size', ($event.target as HTMLSelectElement).value as Size)"
    >
      <option v-for="s in sizes" :key="s" :value="s">
        {{ t(`player.size_${s}`, { mb: cost(s) ?? '' }) }}
      </option>
    </select>
    <template v-if="arrangement">
      <select
        :value="arrangement"
        :aria-label="t('player.pictures')"
        @change="emit('arrange', ($event.target as HTMLSelectElement).value as Arrangement)"
      >
        <option v-for="a in arrangements" :key="a" :value="a">{{ t(`player.arranged.${a}`) }}</option>
      </select>
      <el-button @click="emit('swap')">{{ t('player.swap') }}</el-button>
    </template>
    <input
      class="volume"
      type="range"
      min="0"
      max="1"
      step="0.05"
      :value="volume"
      :aria-label="t('player.volume')"
      @input="emit('volume', Number(($event.target as HTMLInputElement).value))"
    />
    <el-button v-if="small" :aria-label="t('player.small')" @click="emit('small')">
      <svg width="14" height="14" viewBox="0 0 14 14" aria-hidden="true">
        <path d="M5 11H1V2h12v3" fill="none" stroke="currentColor" stroke-width="1.8" />
        <path d="M7 7h6v5H7z" fill="currentColor" />
      </svg>
    </el-button>
    <el-button v-if="pictures" :aria-label="t('player.full')" @click="emit('full')">
      <svg width="14" height="14" viewBox="0 0 14 14" aria-hidden="true">
        <path d="M1 5V1h4M9 1h4v4M13 9v4H9M5 13H1V9" fill="none" stroke="currentColor" stroke-width="1.8" />
      </svg>
    </el-button>
  </div>
</template>

<style scoped>
.controls {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  padding: 8px 0 0;
}

.el-button {
  min-width: 40px;
  padding: 7px 10px;
}

.volume {
  width: 70px;
}

@container (max-width: 420px) {
  .volume {
    display: none;
  }

  .where {
    flex-basis: 100%;
    order: -1;
  }

  .time {
    margin-inline-end: auto;
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
