<script setup lang="ts">
/** Who is shut out of what a course has, whatever its rule says. */
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useShutChange, useShuts } from '../../api/rules'
import FaultNote from '../../parts/FaultNote.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'
import { dayAndClock } from '../../parts/time'

const props = defineProps<{
  course: string
  zone: string
  /** Only those who are shut out of this recording. */
  recording?: string
}>()
const { t } = useI18n()
const shuts = useShuts(() => props.course)
const change = useShutChange(() => props.course)
const form = useForm()
const people = computed(() =>
  (shuts.data.value?.people ?? []).filter(
    (x) => !props.recording || !x.recording_id || x.recording_id === props.recording,
  ),
)
/** Who was let in last. */
const last = ref<{ id: string; name: string }>()

async function letIn(id: string, name: string) {
  if (await form.send(() => change.mutateAsync({ do: 'in', id }))) last.value = { id, name }
}
</script>

<template>
  <section v-if="people.length || last">
    <h3>{{ t('shut.is') }}</h3>
    <ul class="plain">
      <li v-for="x in people" :key="x.id">
        <b>{{ x.name }}</b>
        {{ x.recording_id ? t('shut.is_this', { title: x.title ?? '' }) : t('shut.is_all') }}
        <template v-if="x.until">{{ t('shut.is_until', { at: dayAndClock(x.until, zone) }) }}</template>
        <span class="soft small">
          {{ t('shut.is_by', { name: x.by, at: dayAndClock(x.at, zone) }) }}
          <template v-if="x.note">· {{ x.note }}</template>
        </span>
        <el-button link :aria-label="t('shut.let_in_it', { name: x.name })" @click="letIn(x.id, x.name)">{{
          t('shut.let_in')
        }}</el-button>
      </li>
    </ul>
    <FaultNote v-if="form.problem.value" :error="form.problem.value" />
    <UndoLine
      v-if="last"
      :key="last.id"
      :text="t('shut.in', { name: last.name })"
      :undo="() => change.mutateAsync({ do: 'again', id: last!.id })"
    />
  </section>
</template>

<style scoped>
h3 {
  margin: 18px 0 4px;
  font-size: 15px;
}

li {
  padding: 2px 0;
}
</style>
