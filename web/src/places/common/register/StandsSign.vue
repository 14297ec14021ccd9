<script setup lang="ts">
/** How somebody stands in a register: a shape, a word, and the minutes. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Stands } from '../../../api/register'

const props = defineProps<{ stands: Stands }>()
const { t } = useI18n()
const minutes = computed(() =>
  [
    props.stands.late_min > 0 && t('register.late_min', { n: props.stands.late_min }),
    props.stands.early_min > 0 && t('register.early_min', { n: props.stands.early_min }),
  ]
    .filter(Boolean)
    .join(', '),
)
/** How much of the disc is full. */
const full = computed(
  () => ({ present: 1, late: 0.5, left_early: 0.5, late_left_early: 0.5 })[props.stands.state as string] ?? 0,
)
</script>

<template>
  <span class="stands">
    <svg width="12" height="12" viewBox="0 0 12 12" aria-hidden="true">
      <circle cx="6" cy="6" r="5" class="ring" :class="{ none: !stands.state }" />
      <circle v-if="full === 1" cx="6" cy="6" r="5" class="full" />
      <path v-else-if="full > 0" d="M6 1a5 5 0 0 1 0 10z" class="full" />
      <path v-if="stands.state === 'excused'" d="M3 6h6" class="ring" />
    </svg>
    {{ t(`register.state.${stands.state || 'unknown'}`) }}
    <span v-if="minutes" class="soft small">{{ minutes }}</span>
  </span>
</template>

<style scoped>
.stands {
  display: inline-flex;
  gap: 6px;
  align-items: baseline;
}

svg {
  flex: none;
  align-self: center;
}

.ring {
  fill: none;
  stroke: var(--ink-2);
  stroke-width: 1.3;
}

.none {
  stroke-dasharray: 2 2;
}

.full {
  fill: var(--kelp);
}
</style>
