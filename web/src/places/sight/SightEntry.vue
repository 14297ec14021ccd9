<script setup lang="ts">
/** A recording as someone else finds it in a course: open, or why not, with the press that mends it. */
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { RouteLocationRaw } from 'vue-router'
import { changeLighting, undoLighting } from '../../api/lighting'
import { useShutChange, useShuts } from '../../api/rules'
import type { Eyes, SightLine } from '../../api/sight'
import FaultNote from '../../parts/FaultNote.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'
import { dateText, dayAndClock, timecode } from '../../parts/time'

const props = defineProps<{
  course: { id: string; code: string }
  entry: SightLine
  eyes: Eyes
  zone: string
  to: RouteLocationRaw
}>()
const emit = defineEmits<{ mended: [] }>()
const { t } = useI18n()
const form = useForm()
const shuts = useShuts(() => props.course.id)
const change = useShutChange(() => props.course.id)
/** How what was mended is undone, and what it was. */
const undo = ref<() => Promise<unknown>>()
const said = ref('')

/** The record by which they are shut out here; by another course it is mended there. */
const shut = computed(() =>
  shuts.data.value?.people.find(
    (x) => x.person_id === props.eyes.person && (!x.recording_id || x.recording_id === props.entry.recording_id),
  ),
)
const why = computed(() => {
  const e = props.entry
  return e.opens ? t('door.not_yet_at', { at: dayAndClock(e.opens, props.zone) }) : t(`door.${e.reason}`)
})
const ofRule = computed(() => ['no_rule', 'other_group', 'not_yet', 'no_longer'].includes(props.entry.reason))

async function light() {
  const recordings = [props.entry.recording_id ?? '']
  const done = await form.send(() => changeLighting({ recordings, courses: [props.course.id], lit: true }))
  if (!done) return
  said.value = t('sight.lit', { title: props.entry.title, course: props.course.code })
  undo.value = () => undoLighting(done.step)
  emit('mended')
}

async function letIn() {
  const x = shut.value
  if (!x || !(await form.send(() => change.mutateAsync({ do: 'in', id: x.id })))) return
  said.value = t('shut.in', { name: x.name })
  undo.value = () => change.mutateAsync({ do: 'again', id: x.id })
  emit('mended')
}
</script>

<template>
  <li class="lecture" :class="{ closed: !entry.open }">
    <span class="week soft">{{ entry.week ? t('sheet.week', { n: entry.week }) : '' }}</span>
    <span>
      <router-link v-if="entry.open || !entry.hidden" :to="to">{{ entry.title }}</router-link>
      <span v-else>{{ entry.title }}</span>
      <span v-if="entry.starts_at" class="soft small"> {{ dateText(entry.starts_at, zone) }}</span>
      <span v-if="entry.by" class="soft small"> {{ t('sight.by', { course: entry.by }) }}</span>
      <span v-if="!entry.open" class="why small">
        <b>{{ why }}</b> <span v-if="entry.hidden" class="soft">{{ t('sight.hidden') }}</span>
      </span>
      <FaultNote v-if="form.problem.value" :error="form.problem.value" />
      <UndoLine v-if="undo" :text="said" :undo="undo" @undone="emit('mended')" />
    </span>
    <span class="mend">
      <span v-if="entry.open" class="mono soft">{{ timecode(entry.length_ms) }}</span>
      <el-button
        v-else-if="entry.reason === 'not_lit'"
        type="primary"
        :disabled="form.busy.value"
        :aria-label="`${t('sight.mend.light')}: ${entry.title}`"
        @click="light"
        >{{ t('sight.mend.light') }}</el-button
      >
      <el-button v-else-if="shut" type="primary" :disabled="form.busy.value" @click="letIn">{{
        t('sight.mend.let_in')
      }}</el-button>
      <router-link
        v-else-if="ofRule"
        :to="{ name: 'rule', params: { course: course.id }, query: { for: entry.recording_id } }"
        >{{ t(entry.whence === 'recording' ? 'sight.mend.own' : 'sight.mend.rule') }}</router-link
      >
      <router-link
        v-else-if="eyes.opening"
        :to="{ name: 'rule', params: { course: course.id }, query: { for: entry.recording_id }, hash: '#openings' }"
        >{{ t('sight.mend.beside') }}</router-link
      >
      <router-link v-else :to="{ name: 'course-people', params: { course: course.id } }">{{
        t('sight.mend.people')
      }}</router-link>
    </span>
  </li>
</template>

<style scoped>
.lecture {
  display: grid;
  grid-template-columns: 64px minmax(0, 1fr) auto;
  gap: 14px;
  align-items: center;
  min-height: 44px;
  padding: 6px 0;
  border-bottom: 1px solid var(--rule);
}

.why {
  display: block;
}

.closed {
  color: var(--ink-2);
}
</style>
