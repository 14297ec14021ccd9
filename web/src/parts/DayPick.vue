<script setup lang="ts">
/** A day of the calendar, typed as its reader writes days, or picked. It is held as 2026-11-25; '' for none. */
import { dayFormat } from './days'

const day = defineModel<string>({ required: true })
const props = defineProps<{ id?: string; label?: string; min?: string; max?: string; invalid?: boolean }>()

const format = dayFormat()
const pad = (n: number) => String(n).padStart(2, '0')
const written = (d: Date) => `${d.getFullYear()}-${pad(d.getMonth() + 1)}-${pad(d.getDate())}`
const outside = (d: Date) => (!!props.min && written(d) < props.min) || (!!props.max && written(d) > props.max)
</script>

<template>
  <el-date-picker
    :id="id"
    class="day-pick"
    :class="{ invalid }"
    :model-value="day"
    :format="format"
    value-format="YYYY-MM-DD"
    :placeholder="format.toLowerCase()"
    :disabled-date="outside"
    :clearable="false"
    :validate-event="false"
    :aria-label="label"
    @update:model-value="(d: string | null) => (day = d ?? '')"
  />
</template>

<style scoped>
.el-date-editor.day-pick.day-pick {
  width: 160px;
}

.day-pick.invalid :deep(.el-input__wrapper) {
  box-shadow: 0 0 0 1px var(--tally) inset;
}
</style>
