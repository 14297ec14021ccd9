<script setup lang="ts">
/** A course: the one lecture that is meant today, and then its dates. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watchEffect } from 'vue'
import { useI18n } from 'vue-i18n'
import { useCaughtUp } from '../../api/caughtup'
import { undoChange, useCourse } from '../../api/timetable'
import DateLine from '../../parts/DateLine.vue'
import FaultNote from '../../parts/FaultNote.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { nameTab } from '../../router'
import { useCaughtUpText } from '../common/caughtUp'
import CourseHead from '../common/CourseHead.vue'
import CourseSide from './CourseSide.vue'
import PlanList from './PlanList.vue'

const props = defineProps<{ course: string }>()
const { t } = useI18n()
const client = useQueryClient()
const page = useCourse(() => props.course)
const it = computed(() => page.data.value)
const zone = computed(() => it.value?.term.zone ?? 'UTC')
const near = computed(() => it.value?.dates.find((d) => d.id === it.value?.next))
const isToday = computed(() => near.value?.state === 'today' || near.value?.state === 'on')
const running = computed(() => it.value?.dates.filter((d) => d.running && d.id !== near.value?.id) ?? [])
const over = computed(() => it.value?.dates.filter((d) => d.state === 'over' && d.id !== near.value?.id) ?? [])
const ahead = computed(
  () => it.value?.dates.filter((d) => d.state !== 'over' && !d.running && d.id !== near.value?.id) ?? [],
)
const caughtUp = useCaughtUp(
  () => props.course,
  () => it.value?.staff ?? false,
)
const said = useCaughtUpText()
/** How students have caught up with a recording that they can watch, for those who teach them. */
function stand(recording?: string) {
  const x = caughtUp.data.value?.recordings.find((r) => r.recording === recording)
  return x ? said(x) : ''
}
const removed = ref('')

watchEffect(() => nameTab(it.value ? `${it.value.code} ${it.value.title}` : ''))
const again = () => client.invalidateQueries({ queryKey: ['course', props.course] })
</script>

<template>
  <FaultNote v-if="page.error.value && !it" :error="page.error.value" again @again="page.refetch()" />
  <CourseHead v-if="it" :course="it" :staff="it.staff" />
  <div v-if="it" class="with-side course">
    <section>
      <p class="soft">
        <template v-if="it.lecturers.length > 0">{{ it.lecturers.join(', ') }} · </template>{{ it.term.name }}
        <template v-if="it.staff"> · {{ t('course.students', { n: it.students }, it.students) }}</template>
        <template v-else>
          · <router-link :to="{ name: 'course-register', params: { course } }">{{ t('register.own') }}</router-link>
        </template>
      </p>
      <template v-if="near">
        <h2>{{ isToday ? t('course.this_one') : t(near.state === 'over' ? 'course.last' : 'course.next') }}</h2>
        <div class="page near">
          <DateLine :date="near" :zone="zone" :today="isToday" />
          <el-button
            v-if="it.staff && isToday"
            tag="router-link"
            type="primary"
            :to="{ name: 'capture-desk', params: { lecture: near.id } }"
            >{{ t('lecture.capture') }}</el-button
          >
        </div>
      </template>
      <template v-if="running.length > 0">
        <h2>{{ t('course.running') }}</h2>
        <div v-for="d in running" :key="d.id" class="page near"><DateLine :date="d" :zone="zone" /></div>
      </template>
      <UndoLine
        v-if="removed"
        :key="removed"
        :text="t('plan.removed')"
        :undo="() => undoChange(course, removed)"
        @undone="again"
      />
      <PlanList v-if="it.staff" :page="it" @removed="removed = $event" />
      <p v-else-if="it.dates.length === 0" class="page">{{ t('course.no_dates') }}</p>
      <template v-if="ahead.length > 0">
        <h2>{{ t('course.ahead') }}</h2>
        <ol class="page line-list">
          <li v-for="d in ahead" :key="d.id"><DateLine :date="d" :zone="zone" /></li>
        </ol>
      </template>
      <template v-if="over.length > 0">
        <h2>{{ t('course.over') }}</h2>
        <ol class="page line-list">
          <li v-for="d in [...over].reverse()" :key="d.id">
            <DateLine :date="d" :zone="zone" />
            <p v-if="stand(d.recording_id)" class="soft small stand">{{ stand(d.recording_id) }}</p>
          </li>
        </ol>
      </template>
    </section>
    <CourseSide :page="it" />
  </div>
</template>

<style scoped>
.course {
  --side: 300px;
}

.stand {
  margin: -2px 0 6px;
}

h2 {
  margin: 20px 0 6px;
}

.near {
  padding: 14px 18px;
}

.near:has(.today) {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  padding: 0;
  background: var(--kelp-soft);
}

.near .date {
  flex: 1;
  width: auto;
  background: none;
}

.near .el-button {
  margin: 8px 14px;
}
</style>
