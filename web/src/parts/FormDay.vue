<script setup lang="ts">
/** A day in a form: its name, what is entered, and what is wrong with it where it is wrong. */
import DayPick from './DayPick.vue'
import FormSlot from './FormSlot.vue'

const day = defineModel<string>({ required: true })
defineProps<{
  label: string
  fault?: string
  /** Within a sentence the name is only read out. */
  inline?: boolean
  min?: string
  max?: string
}>()
</script>

<template>
  <FormSlot v-slot="x" :label="label" :fault="fault" :inline="inline">
    <DayPick :id="x.id" v-model="day" :label="label" :min="min" :max="max" :invalid="x.invalid" />
  </FormSlot>
</template>
