<script setup lang="ts">
/** When a step is done: at once, or at an hour that is set. The hour is '' while it is none. */
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import DayPick from '../../parts/DayPick.vue'
import FormText from '../../parts/FormText.vue'
import { collegeNow } from '../../parts/clock'
import { dayAfter, dayOf, momentOf } from '../../parts/days'

const later = defineModel<boolean>('later', { required: true })
const at = defineModel<string>('at', { required: true })
const props = defineProps<{ zone: string; fault?: string }>()
const { t } = useI18n()
const today = dayOf(collegeNow(), props.zone)
const day = ref(today)
const clock = ref('18:00')
const moment = computed(() => momentOf(day.value, clock.value, props.zone))
watch(moment, (m) => (at.value = m?.toISOString() ?? ''), { immediate: true })
const wrong = computed(() => (moment.value ? props.fault : t('lighting.hour_wrong')))
</script>

<template>
  <div class="hour">
    <el-segmented
      v-model="later"
      :aria-label="t('lighting.when')"
      :options="[
        { value: false, label: t('lighting.at_once') },
        { value: true, label: t('lighting.at_hour') },
      ]"
    />
    <template v-if="later">
      <DayPick v-model="day" :label="t('lighting.day')" :min="today" :max="dayAfter(today, 365)" />
      <FormText v-model="clock" :label="t('lighting.hour')" :fault="wrong" inline size="clock" />
    </template>
  </div>
</template>

<style scoped>
.hour {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 14px;
  align-items: center;
  margin: 12px 0;
}
</style>
