<script setup lang="ts">
/** A week of the term, by its Monday. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useTerm } from '../../api/timetable'
import ChoiceList from '../../parts/ChoiceList.vue'
import FormSlot from '../../parts/FormSlot.vue'
import { dateText } from '../../parts/time'

const monday = defineModel<string>({ required: true })
defineProps<{ fault?: string }>()
const { t } = useI18n()
const term = useTerm()
const weeks = computed(() =>
  (term.data.value?.weeks ?? []).map((w) => ({
    value: w.monday,
    text: w.number ? t('ahead.week_from', { n: w.number, date: dateText(`${w.monday}T12:00:00Z`, 'UTC') }) : w.break,
  })),
)
</script>

<template>
  <FormSlot v-slot="{ id }" :label="t('ahead.week')" :fault="fault">
    <ChoiceList :id="id" v-model="monday" :label="t('ahead.week')" :options="weeks" />
  </FormSlot>
</template>
