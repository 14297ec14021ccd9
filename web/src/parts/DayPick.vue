<script setup lang="ts">
/** A day of the calendar, typed as its reader writes days, or picked. It is held as 2026-11-25; '' for none. */
import { computed } from 'vue'
import { dayFormat } from './days'

const day = defineModel<string>({ required: true })
const props = defineProps<{ id?: string; label?: string; min?: string; max?: string; invalid?: boolean }>()
defineOptions({ inheritAttrs: false })

const format = dayFormat()
const pad = (n: number) => String(n).padStart(2, '0')
const written = (d: Date) => `${d.getFullYear()}-${pad(d.getMonth() + 1)}-${pad(d.getDate())}`
const outside = computed(() => (d: Date) => {
  const x = written(d)
  return (!!props.min && x < props.min) || (!!props.max && x > props.max)
})
</script>

<template>
  <el-date-picker
    v-bind="$attrs"
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
</style>
