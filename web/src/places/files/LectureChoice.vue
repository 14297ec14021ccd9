<script setup lang="ts">
/** Any lecture of the courses that one teaches: first the course, then the lecture. */
import { computed, ref, watchEffect } from 'vue'
import { useI18n } from 'vue-i18n'
import { useBoard } from '../../api/queries'
import ChoiceList from '../../parts/ChoiceList.vue'
import FormSlot from '../../parts/FormSlot.vue'
import { courseChoices } from '../common/choices'
import { dayAndClock } from '../../parts/time'

const props = defineProps<{ course?: string; lecture?: string; busy: boolean }>()
const emit = defineEmits<{ choose: [lecture: string]; leave: [] }>()
const { t } = useI18n()
const board = useBoard()
const course = ref(props.course ?? '')
const lecture = ref(props.lecture ?? '')
const courses = computed(() => [...(board.data.value?.courses ?? [])].sort((a, b) => Number(b.mine) - Number(a.mine)))
const lectures = computed(() => courses.value.find((c) => c.id === course.value)?.lectures ?? [])
const zone = computed(() => board.data.value?.zone ?? 'UTC')

const named = (l: (typeof lectures.value)[number]) => ({
  value: l.id,
  text: [l.ahead ? t('date.ahead') : dayAndClock(l.starts_at, zone.value), l.topic].filter(Boolean).join(' · '),
})

watchEffect(() => {
  if (courses.value.length > 0 && !courses.value.some((c) => c.id === course.value)) course.value = courses.value[0]!.id
  if (!lectures.value.some((l) => l.id === lecture.value)) {
    // The last one that was held is the likeliest.
    const now = Date.parse(board.data.value?.now ?? '')
    lecture.value = (lectures.value.findLast((l) => Date.parse(l.starts_at) <= now) ?? lectures.value[0])?.id ?? ''
  }
})
</script>

<template>
  <form class="choice" @submit.prevent="emit('choose', lecture)">
    <FormSlot v-slot="{ id }" :label="t('files.course')">
      <ChoiceList :id="id" v-model="course" :label="t('files.course')" :options="courseChoices(courses)" />
    </FormSlot>
    <FormSlot v-slot="{ id }" :label="t('files.lecture')">
      <ChoiceList :id="id" v-model="lecture" :label="t('files.lecture')" :options="lectures.map(named)" />
    </FormSlot>
    <div class="bar-of-acts">
      <el-button type="primary" native-type="submit" :disabled="busy || lecture === ''">{{ t('files.put') }}</el-button>
      <el-button link @click="emit('leave')">{{ t('leave') }}</el-button>
    </div>
  </form>
</template>

<style scoped>
.choice {
  display: flex;
  flex-wrap: wrap;
  align-items: flex-end;
  gap: 0 16px;
}

.bar-of-acts {
  margin-bottom: 12px;
}
</style>
