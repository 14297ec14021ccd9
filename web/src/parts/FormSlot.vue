<script setup lang="ts">
/** A control of a form with its name, and what is wrong with it where it is wrong. */
import { computed, useId } from 'vue'

const props = defineProps<{
  label: string
  fault?: string
  /** Within a sentence the name is only read out. */
  inline?: boolean
  /** The control is a group that names itself. */
  group?: boolean
  help?: string
}>()
const id = useId()
const described = computed(() => (props.fault ? `${id}-fault` : props.help ? `${id}-help` : undefined))
</script>

<template>
  <span class="slot" :class="{ inline }">
    <label v-if="!group" :class="{ away: inline }" :for="id">{{ label }}</label>
    <slot :id="id" :invalid="fault ? true : undefined" :described="described" />
    <span v-if="help && !fault" :id="`${id}-help`" class="soft small">{{ help }}</span>
    <span v-if="fault" :id="`${id}-fault`" class="wrong" role="alert">{{ fault }}</span>
  </span>
</template>

<style scoped>
.slot {
  display: flex;
  flex-direction: column;
  gap: 4px;
  margin: 12px 0;
}

.slot.inline {
  display: inline-flex;
  max-width: 340px;
  margin: 0;
}

.wrong {
  padding-inline-start: 8px;
  border-inline-start: 3px solid var(--tally);
  color: var(--ink);
  font: 14px/1.4 var(--sans);
}
</style>
