<script setup lang="ts">
/** Up to where everything is stored on the server, and what is still only on this computer. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { timecode } from './time'

const props = defineProps<{ elapsed: number; safe: number; reached: boolean }>()
const { t } = useI18n()
const behind = computed(() => Math.max(0, props.elapsed - props.safe))
const seconds = computed(() => Math.round(behind.value / 1000))
const share = computed(() => (props.elapsed > 0 ? Math.min(1, props.safe / props.elapsed) : 0))
</script>

<template>
  <div class="safe" :class="{ late: !reached || behind > 10_000 }">
    <div class="line" aria-hidden="true"><div class="stored" :style="{ width: `${share * 100}%` }" /></div>
    <p class="words">
      <span>{{ t('safe.saved', { time: timecode(safe) }) }}</span>
      {{ ' ' }}
      <span v-if="seconds > 0">{{ t('safe.local', { n: seconds }, seconds) }}</span>
    </p>
    <p v-if="!reached" class="words">{{ t('safe.unreached') }}</p>
  </div>
</template>

<style scoped>
.line {
  height: 6px;
  border: 1px solid var(--edge);
  background: repeating-linear-gradient(135deg, transparent 0 3px, var(--rule-strong) 3px 4px);
}

.stored {
  height: 100%;
  background: var(--kelp);
}

.words {
  margin: 6px 0 0;
}

.late .words {
  color: var(--tally);
}
</style>
