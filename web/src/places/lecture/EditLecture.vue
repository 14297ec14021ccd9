<script setup lang="ts">
/** Changing a lecture, or it and all later ones of its plan. What would move and clash is shown first. */
import { useQueryClient } from '@tanstack/vue-query'
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { Problem, type Schemas } from '../../api/client'
import { editLecture, previewEdit, undoChange, useTerms, type Choices } from '../../api/timetable'
import FaultNote from '../../parts/FaultNote.vue'
import FormSlot from '../../parts/FormSlot.vue'
import FormDay from '../../parts/FormDay.vue'
import FormText from '../../parts/FormText.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'
import { usePreview } from '../../parts/preview'
import WeekChoice from '../common/WeekChoice.vue'
import { clockText } from '../../parts/time'
import ChoicesForm from '../plan/ChoicesForm.vue'
import ProposedLines from '../plan/ProposedLines.vue'
import { dayOf } from '../../parts/days'

const props = defineProps<{ page: Schemas['LecturePage'] }>()
const emit = defineEmits<{ close: [] }>()
const { t } = useI18n()
const client = useQueryClient()
const places = useTerms()
const later = ref(false)

const asItIs = () => {
  const l = props.page.lecture
  const s = props.page.settings!
  return {
    day: dayOf(Date.parse(l.starts_at), props.page.zone),
    starts: clockText(l.starts_at, props.page.zone),
    ends: clockText(l.ends_at, props.page.zone),
    hall: s.hall_id ?? '',
    topic: l.topic,
    choices: {
      doorway: s.doorway,
      opens_min: s.opens_min,
      capture_auto: s.capture_auto,
      lead_min: s.lead_min,
      tail_min: s.tail_min,
    } as Choices,
  }
}
const { draft: form, busy, problem, done, send, said, reset } = useForm(asItIs)

/** Only what differs is sent, so that later lectures keep what is their own. */
const edit = computed<Schemas['EditText']>(() => {
  const was = asItIs()
  const now = form.value
  const out: Schemas['EditText'] = { later: later.value }
  if (now.day !== was.day) out.day = now.day
  if (now.starts !== was.starts || now.ends !== was.ends) Object.assign(out, { starts: now.starts, ends: now.ends })
  if (now.hall !== was.hall) out.hall = now.hall
  if (now.topic.trim() !== was.topic) out.topic = now.topic
  for (const key of ['doorway', 'opens_min', 'capture_auto', 'lead_min', 'tail_min'] as const)
    if (now.choices[key] !== was.choices[key]) Object.assign(out, { [key]: now.choices[key] })
  return out
})
const changed = computed(() => Object.keys(edit.value).length > 1)
const {
  preview,
  fault: refused,
  look,
} = usePreview(() => (changed.value ? previewEdit(props.page.lecture.id, edit.value) : undefined))
const moves = computed(() => ['day', 'starts', 'hall'].some((k) => k in edit.value))
const faults = computed(() => {
  const of = (x: unknown) => (x instanceof Problem ? x.fields : {})
  return { ...of(refused.value), ...of(problem.value) }
})
const shown = computed(() => {
  const p = preview.value
  if (!p || !moves.value) return undefined
  return { ...p, lectures: p.lectures.filter((x) => x.was !== x.starts_at || x.clashing || x.stays) }
})

const lookSoon = useDebounceFn(look, 250)
watch([form, later], () => void lookSoon(), { deep: true })

async function change(what: Schemas['EditText'], text: string) {
  const got = await send(() => editLecture(props.page.lecture.id, what))
  if (!got) return
  await refresh()
  said(text, async () => {
    await undoChange(props.page.lecture.course_id, got.change)
    await refresh()
  })
}

async function refresh() {
  await client.invalidateQueries({ queryKey: ['lecture-page', props.page.lecture.id] })
  reset()
  for (const key of ['course', 'board', 'courses', 'dates', 'run-sheet'])
    void client.invalidateQueries({ queryKey: [key] })
}

const callOff = (off: boolean) =>
  change({ later: later.value, called_off: off }, t(off ? 'lecture.called_off' : 'lecture.brought_back'))
</script>

<template>
  <div class="page edit">
    <div class="bar-of-acts">
      <h2>{{ t('lecture.change') }}</h2>
      <el-button link class="push" @click="emit('close')">{{ t('close') }}</el-button>
    </div>
    <UndoLine v-if="done" v-bind="done" :key="done.key" />
    <el-radio-group v-if="page.settings!.later > 0" v-model="later" class="which" :aria-label="t('lecture.which')">
      <el-radio :value="false">{{ t('lecture.this_only') }}</el-radio>
      <el-radio :value="true">{{ t('lecture.and_later', { n: page.settings!.later }, page.settings!.later) }}</el-radio>
    </el-radio-group>
    <WeekChoice v-if="page.lecture.ahead" v-model="form.day" :fault="faults.day" />
    <div v-else class="sentence-form">
      <FormDay v-model="form.day" :label="t('lecture.day')" :fault="faults.day" inline />
      <span class="joins">,</span>
      <FormText v-model="form.starts" :label="t('plan.starts')" :fault="faults.starts" inline size="clock" />
      <span>{{ t('plan.to') }}</span>
      <FormText v-model="form.ends" :label="t('plan.ends')" :fault="faults.ends" inline size="clock" />
      <span>{{ t('plan.in') }}</span>
      <FormSlot v-slot="{ id, invalid, described }" :label="t('plan.hall')" :fault="faults.hall" inline>
        <select :id="id" v-model="form.hall" class="entry-select" :aria-invalid="invalid" :aria-describedby="described">
          <option value="">{{ t('plan.no_hall') }}</option>
          <option v-for="h in places.data.value?.halls ?? []" :key="h.id" :value="h.id">{{ h.name }}</option>
        </select>
      </FormSlot>
    </div>
    <FormText v-model="form.topic" :label="t('lecture.topic')" :fault="faults.topic" size="wide" />
    <ChoicesForm v-if="!page.lecture.ahead" v-model="form.choices" :faults="faults" />
    <div v-if="shown && !page.lecture.ahead && shown.lectures.length > 0" class="shown">
      <p role="status">
        <b v-if="shown.clashing > 0">{{ t('plan.clashing', { n: shown.clashing }, shown.clashing) }}</b>
        <template v-else>{{ t('lecture.no_clash') }}</template>
      </p>
      <ProposedLines :dates="shown" />
    </div>
    <FaultNote v-if="refused && Object.keys(faults).length === 0" :error="refused" />
    <FaultNote v-if="problem && Object.keys(faults).length === 0" :error="problem" />
    <div class="bar-of-acts">
      <el-button
        type="primary"
        :disabled="busy || !changed || refused !== undefined"
        @click="change(edit, t('lecture.kept'))"
      >
        {{ t(shown && shown.clashing > 0 ? 'lecture.keep_clashing' : 'lecture.keep') }}
      </el-button>
      <el-button
        v-if="page.lecture.state !== 'off' && !page.lecture.ahead"
        link
        class="push"
        :disabled="busy"
        @click="callOff(true)"
      >
        {{ t(later ? 'lecture.call_off_later' : 'lecture.call_off') }}
      </el-button>
      <el-button v-else-if="page.lecture.state === 'off'" link class="push" :disabled="busy" @click="callOff(false)">
        {{ t('lecture.bring_back') }}
      </el-button>
    </div>
  </div>
</template>

<style scoped>
.which {
  gap: 4px 22px;
  margin: 8px 0 12px;
}

.shown {
  margin: 10px 0;
}
</style>
