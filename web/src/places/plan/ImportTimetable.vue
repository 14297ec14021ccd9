<script setup lang="ts">
/** A calendar brought into a course: what it would plan is shown before anything is kept. */
import { useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { importTimetable, previewTimetable, undoChange, useCourse } from '../../api/timetable'
import FaultNote from '../../parts/FaultNote.vue'
import FilePick from '../../parts/FilePick.vue'
import LineFaults from '../../parts/LineFaults.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'
import { nameTab } from '../../router'
import CourseHead from '../common/CourseHead.vue'
import ProposedLines from './ProposedLines.vue'
import { usePlanWords } from './words'

const props = defineProps<{ course: string }>()
const { t } = useI18n()
const client = useQueryClient()
const page = useCourse(() => props.course)
const words = usePlanWords()
const text = ref('')
const name = ref('')
const found = ref<Schemas['TimetableImport']>()
const kept = ref<{ change: string; n: number }>()
const { busy, problem, send } = useForm()
nameTab(t('timetable.title'))

async function choose([file]: File[]) {
  if (!file) return
  name.value = file.name
  found.value = undefined
  kept.value = undefined
  await send(async () => {
    text.value = await file.text()
    found.value = await previewTimetable(props.course, text.value)
  })
}

async function take() {
  const n = found.value!.lectures
  const done = await send(() => importTimetable(props.course, text.value))
  if (!done) return
  kept.value = { change: done.change, n }
  found.value = undefined
  void client.invalidateQueries({ queryKey: ['course', props.course] })
  void client.invalidateQueries({ queryKey: ['board'] })
}
</script>

<template>
  <FaultNote v-if="page.error.value && !page.data.value" :error="page.error.value" again @again="page.refetch()" />
  <CourseHead v-if="page.data.value" :course="page.data.value" :staff="page.data.value.staff" />
  <section v-if="page.data.value">
    <h2>{{ t('timetable.title') }}</h2>
    <p>{{ t('timetable.text') }}</p>
    <div class="page">
      <FilePick :text="t('timetable.choose')" accept=".ics,text/calendar" @files="choose" />
      <FaultNote v-if="problem" :error="problem" />
    </div>
    <UndoLine
      v-if="kept"
      :key="kept.change"
      :text="t('plan.kept', { n: kept.n }, kept.n)"
      :undo="() => undoChange(course, kept!.change)"
      @undone="client.invalidateQueries({ queryKey: ['course', course] })"
    />
    <template v-if="found">
      <LineFaults
        v-if="found.faults.length > 0"
        :list="found.faults"
        :all="found.faults_all"
        :title="t('timetable.faults', { name })"
        grave
      />
      <LineFaults
        v-if="found.notes.length > 0"
        :list="found.notes"
        :all="found.notes_all"
        :title="t('timetable.notes')"
      />
      <div v-if="found.faults.length === 0 && found.lectures > 0" class="page head bar-of-acts">
        <div role="status">
          <h2>
            {{ t('plan.makes', { n: found.lectures }, found.lectures) }}
            <template v-if="found.clashing > 0">{{
              t('plan.clashing', { n: found.clashing }, found.clashing)
            }}</template>
          </h2>
        </div>
        <el-button :type="found.clashing > 0 ? 'default' : 'primary'" class="push" :disabled="busy" @click="take">
          {{ t(found.clashing > 0 ? 'plan.keep_clashing' : 'plan.keep', { n: found.lectures }) }}
        </el-button>
      </div>
      <p v-else-if="found.faults.length === 0" class="page">{{ t('timetable.nothing') }}</p>
      <div v-for="(p, n) in found.plans" :key="n" class="page plan">
        <h2>{{ p.title }}</h2>
        <p class="said">
          {{ words.sentence(p.plan, p.hall_is ? p.hall : '', p.last, p.by_dates, p.lectures.length) }}
        </p>
        <ProposedLines :dates="{ zone: found.zone, lectures: p.lectures, skipped: [], clashing: 0 }" />
      </div>
    </template>
  </section>
</template>

<style scoped>
section {
  max-width: 900px;
}

.plan,
.head {
  margin-top: 14px;
}

.said {
  font: 17px/1.5 var(--serif);
}
</style>
