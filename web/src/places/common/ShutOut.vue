<script setup lang="ts">
/** Shutting one student out, of a recording or of all that a course has, for good or until a day. */
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { previewShut, useShutChange } from '../../api/rules'
import DayPick from '../../parts/DayPick.vue'
import FaultNote from '../../parts/FaultNote.vue'
import FormText from '../../parts/FormText.vue'
import { collegeNow } from '../../parts/clock'
import { dayAfter, dayOf, startOf } from '../../parts/days'
import { useForm } from '../../parts/form'

const props = defineProps<{
  course: { id: string; code: string }
  recording: string
  person: { id: string; name: string }
  zone: string
}>()
const emit = defineEmits<{ close: []; done: [] }>()
const { t } = useI18n()
const change = useShutChange(() => props.course.id)
const form = useForm()
const all = ref(false)
const good = ref(true)
const day = ref(dayAfter(dayOf(collegeNow(), props.zone), 14))
const note = ref('')
const of = computed(() => (all.value ? undefined : props.recording))
const effect = useQuery({
  queryKey: computed(() => ['shut-outs', props.course.id, props.person.id, of.value ?? '']),
  queryFn: () => previewShut(props.course.id, props.person.id, of.value),
})

async function go() {
  const until = good.value || !day.value ? undefined : startOf(dayAfter(day.value), props.zone).toISOString()
  const shut = { person_id: props.person.id, recording_id: of.value, until, note: note.value }
  if (await form.send(() => change.mutateAsync({ do: 'out', shut }))) emit('done')
}
</script>

<template>
  <form class="shut" :aria-label="t('shut.title', { name: person.name })" @submit.prevent="go">
    <el-radio-group v-model="all" :aria-label="t('shut.what')">
      <el-radio :value="false">{{ t('shut.of_this') }}</el-radio>
      <el-radio :value="true">{{ t('shut.of_all', { course: course.code }) }}</el-radio>
    </el-radio-group>
    <el-radio-group v-model="good" :aria-label="t('shut.until')">
      <el-radio :value="true">{{ t('shut.for_good') }}</el-radio>
      <el-radio :value="false">{{ t('shut.a_day') }}</el-radio>
    </el-radio-group>
    <DayPick v-if="!good" v-model="day" :label="t('shut.day')" :invalid="!!form.fields.value.until" />
    <p v-if="form.fields.value.until" class="wrong small" role="alert">{{ form.fields.value.until }}</p>
    <FormText v-model="note" :label="t('shut.note')" :fault="form.fields.value.note" size="wide" />
    <p v-if="effect.data.value" role="status">
      {{ t('shut.fewer', { name: person.name, n: effect.data.value.fewer }, effect.data.value.fewer) }}
    </p>
    <FaultNote v-if="form.whole.value" :error="form.whole.value" />
    <p class="do">
      <el-button type="primary" native-type="submit" :disabled="form.busy.value">{{
        t('shut.go', { name: person.name })
      }}</el-button>
      <el-button link @click="emit('close')">{{ t('leave') }}</el-button>
    </p>
  </form>
</template>

<style scoped>
.shut {
  margin: 6px 0 12px;
  padding: 8px 12px;
  border-inline-start: 3px solid var(--rule-strong);
}

.do {
  display: flex;
  gap: 16px;
  align-items: center;
}

.el-radio-group {
  display: flex;
  gap: 2px 18px;
}

.el-radio {
  margin-inline-end: 0;
}
</style>
