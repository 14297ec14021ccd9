<script setup lang="ts">
/** A week of the term, by its Monday. */
import { useI18n } from 'vue-i18n'
import { useTerm } from '../../api/timetable'
import FormSlot from '../../parts/FormSlot.vue'
import { dateText } from '../../parts/time'

const monday = defineModel<string>({ required: true })
defineProps<{ fault?: string }>()
const { t } = useI18n()
const term = useTerm()
const name = (w: { monday: string; number: number; break: string }) =>
  w.number ? t('ahead.week_from', { n: w.number, date: dateText(`${w.monday}T12:00:00Z`, 'UTC') }) : w.break
</script>

<template>
  <FormSlot v-slot="{ id, invalid, described }" :label="t('ahead.week')" :fault="fault">
    <select :id="id" v-model="monday" class="entry-select" :aria-invalid="invalid" :aria-describedby="described">
      <option v-for="w in term.data.value?.weeks ?? []" :key="w.monday" :value="w.monday">
        {{ name(w) }}
      </option>
    </select>
  </FormSlot>
</template>
