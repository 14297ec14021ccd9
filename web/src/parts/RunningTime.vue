<script setup lang="ts">
/** How much of a capture under way is held: it ticks while more comes, and stands while it is paused or broken off. */
import { computed, onScopeDispose, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { timecode } from './time'

const props = defineProps<{ held: number; phase: string }>()
const { t } = useI18n()
/** For so long it goes without saying that more comes. */
const trust = 120_000
const told = ref(performance.now())
const now = ref(told.value)
watch(
  () => [props.held, props.phase],
  () => (told.value = now.value = performance.now()),
)
const timer = window.setInterval(() => (now.value = performance.now()), 500)
onScopeDispose(() => window.clearInterval(timer))
const shown = computed(() => props.held + (props.phase === 'runs' ? Math.min(trust, now.value - told.value) : 0))
</script>

<template>
  <span
    >{{ timecode(shown) }}
    <template v-if="phase === 'paused' || phase === 'broken'">{{ t(`phase.${phase}`) }}</template></span
  >
</template>
