<script setup lang="ts">
/** A lesson recorded ahead, with nobody invited: for a lecture that is planned, or as one of its own for a week. */
import { computed, ref, watchEffect } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { useBoard } from '../../api/queries'
import { addLesson } from '../../api/timetable'
import FaultNote from '../../parts/FaultNote.vue'
import ChoiceList from '../../parts/ChoiceList.vue'
import FormSlot from '../../parts/FormSlot.vue'
import FormText from '../../parts/FormText.vue'
import LanternSign from '../../parts/LanternSign.vue'
import { useForm } from '../../parts/form'
import { dayAndClock } from '../../parts/time'
import { courseChoices } from '../common/choices'
import WeekChoice from '../common/WeekChoice.vue'

const { t } = useI18n()
const router = useRouter()
const board = useBoard()
const course = ref('')
const week = ref('')
const topic = ref('')
const { busy, fields, whole, send } = useForm()

/** One's own courses stand first; a coordinator may record for any. */
const courses = computed(() => [...(board.data.value?.courses ?? [])].sort((a, b) => Number(b.mine) - Number(a.mine)))
const planned = computed(() => {
  const all = courses.value.find((c) => c.id === course.value)?.lectures ?? []
  return all.filter((l) => l.monday === week.value && l.state === 'planned')
})

watchEffect(() => {
  const b = board.data.value
  if (!b) return
  if (course.value === '') course.value = courses.value[0]?.id ?? ''
  if (week.value === '')
    week.value = (b.weeks.find((w) => w.monday >= b.monday && w.number) ?? b.weeks[0])?.monday ?? ''
})

async function make() {
  const lesson = await send(() => addLesson(course.value, week.value, topic.value))
  if (lesson) void router.push({ name: 'capture-desk', params: { lecture: lesson.lecture_id } })
}
</script>

<template>
  <section v-if="courses.length > 0" class="page ahead" aria-labelledby="ahead">
    <h2 id="ahead">{{ t('ahead.title') }}</h2>
    <p class="soft">{{ t('ahead.what') }}</p>
    <form @submit.prevent="make">
      <div class="where">
        <FormSlot v-slot="{ id }" :label="t('ahead.course')">
          <ChoiceList :id="id" v-model="course" :label="t('ahead.course')" :options="courseChoices(courses)" />
        </FormSlot>
        <WeekChoice v-model="week" :fault="fields.week" />
      </div>
      <template v-if="planned.length > 0">
        <h3>{{ t('ahead.planned') }}</h3>
        <ul class="plain">
          <li v-for="l in planned" :key="l.id">
            <LanternSign :state="l.state" :can="l.can" :of="0" mute />
            <router-link :to="{ name: 'capture-desk', params: { lecture: l.id } }">{{
              [dayAndClock(l.starts_at, board.data.value!.zone), l.topic].filter(Boolean).join(' · ')
            }}</router-link>
          </li>
        </ul>
        <h3>{{ t('ahead.own') }}</h3>
      </template>
      <div class="own">
        <FormText v-model="topic" :label="t('ahead.topic')" :fault="fields.topic" size="wide" />
        <el-button native-type="submit" :disabled="busy || course === '' || week === ''">
          {{ t('ahead.make') }}
        </el-button>
      </div>
      <FaultNote v-if="whole" :error="whole" />
    </form>
  </section>
</template>

<style scoped>
.ahead {
  max-width: 860px;
  margin-top: 26px;
}

.where {
  display: flex;
  flex-wrap: wrap;
  gap: 0 24px;
}

.own {
  display: flex;
  flex-wrap: wrap;
  align-items: flex-end;
  gap: 0 16px;
}

.own :deep(.slot) {
  flex: 1 1 320px;
}

.own .el-button {
  margin: 0 0 12px;
}

li {
  display: flex;
  align-items: center;
  gap: 12px;
  padding: 4px 0;
}

h3 {
  margin: 10px 0 2px;
  font: 600 16px var(--serif);
}
</style>
