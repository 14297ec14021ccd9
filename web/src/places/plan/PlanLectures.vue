<script setup lang="ts">
/** Planning: the sentence, and under it while it is written the dates it makes and what they clash with. */
import { useQueryClient } from '@tanstack/vue-query'
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { Problem, type Schemas } from '../../api/client'
import { addPlan, previewPlan, undoChange, useCourse, useTerms } from '../../api/timetable'
import FaultNote from '../../parts/FaultNote.vue'
import FormText from '../../parts/FormText.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'
import { usePreview } from '../../parts/preview'
import { nameTab } from '../../router'
import CourseHead from '../common/CourseHead.vue'
import { dayOf } from '../../parts/days'
import ChoicesForm from './ChoicesForm.vue'
import PlanSentence from './PlanSentence.vue'
import ProposedLines from './ProposedLines.vue'

const props = defineProps<{ course: string }>()
const { t } = useI18n()
const client = useQueryClient()
const page = useCourse(() => props.course)
const places = useTerms()
/** What is proposed before anything was chosen. */
const first = computed<Schemas['PlanText'] | undefined>(() => {
  const it = page.data.value
  if (!it) return undefined
  const today = dayOf(Date.parse(it.now), it.term.zone)
  return {
    weekdays: [],
    every: 1,
    starts: '10:15',
    ends: '11:45',
    from: today < it.term.first_day || today > it.term.last_day ? it.term.first_day : today,
    times: 10,
    until: it.term.last_day,
    over_breaks: false,
    doorway: 'walk_in',
    opens_min: 10,
    capture_auto: false,
    lead_min: 5,
    tail_min: 10,
  }
})
/** With what one goes on once a plan was made. */
const next = ref<Schemas['PlanText']>()
const { draft: plan, busy, whole, done, send, said, reset } = useForm(() => next.value ?? first.value)
const {
  preview: dates,
  fault: problem,
  look,
} = usePreview(() => (begun && plan.value ? previewPlan(props.course, plan.value) : undefined))
nameTab(t('plan.title'))

const faults = computed(() => (problem.value instanceof Problem ? problem.value.fields : {}))
const ready = computed(() => page.data.value && places.data.value && plan.value)

const lookSoon = useDebounceFn(look, 250)
/** Nothing is said to be missing before anything was chosen. */
let begun = false
watch(
  plan,
  (now) => {
    begun ||= (now?.weekdays.length ?? 0) > 0
    if (begun) void lookSoon()
  },
  { deep: true },
)

async function keep() {
  const n = dates.value!.lectures.length
  const added = await send(() => addPlan(props.course, plan.value!))
  if (!added) return
  said(t('plan.kept', { n }, n), async () => {
    await undoChange(props.course, added.change)
    await look()
  })
  next.value = { ...plan.value!, weekdays: [] }
  reset()
  begun = false
  void look()
  void client.invalidateQueries({ queryKey: ['course', props.course] })
  void client.invalidateQueries({ queryKey: ['board'] })
}
</script>

<template>
  <FaultNote v-if="page.error.value && !page.data.value" :error="page.error.value" again @again="page.refetch()" />
  <CourseHead v-if="page.data.value" :course="page.data.value" :staff="page.data.value.staff" />
  <section v-if="ready && plan">
    <h2>{{ t('plan.title') }}</h2>
    <UndoLine v-if="done" v-bind="done" :key="done.key" />
    <div class="page">
      <PlanSentence v-model="plan" :halls="places.data.value!.halls" :term="page.data.value!.term" :faults="faults" />
      <FormText
        :model-value="plan.topic ?? ''"
        :label="t('plan.topic')"
        :help="t('plan.topic_hint')"
        :fault="faults.topic"
        size="wide"
        @update:model-value="plan = { ...plan, topic: String($event) }"
      />
      <ChoicesForm v-model="plan" class="more" :faults="faults" />
    </div>
    <FaultNote v-if="problem && Object.keys(faults).length === 0" :error="problem" />
    <div v-if="dates" class="page result">
      <div class="bar-of-acts head">
        <div role="status">
          <h2>
            {{ t('plan.makes', { n: dates.lectures.length }, dates.lectures.length) }}
            <template v-if="dates.clashing > 0">{{
              t('plan.clashing', { n: dates.clashing }, dates.clashing)
            }}</template>
          </h2>
        </div>
        <el-button :type="dates.clashing > 0 ? 'default' : 'primary'" class="push" :disabled="busy" @click="keep">
          {{ t(dates.clashing > 0 ? 'plan.keep_clashing' : 'plan.keep', { n: dates.lectures.length }) }}
        </el-button>
      </div>
      <FaultNote v-if="whole" :error="whole" />
      <ProposedLines :dates="dates" />
    </div>
    <p v-else-if="plan.weekdays.length === 0" class="soft">{{ t('plan.choose_days') }}</p>
  </section>
</template>

<style scoped>
section {
  max-width: 1060px;
}

.more {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(330px, 1fr));
  gap: 0 32px;
  margin-top: 18px;
}

.result {
  margin-top: 14px;
}

.head {
  position: sticky;
  top: 0;
  z-index: 1;
  padding: 6px 0 8px;
  background: var(--shell);
}
</style>
