<script setup lang="ts">
/** Wherever a lecturer is in the product: one of their lectures is on, and nobody captures it. */
import { useQueryClient } from '@tanstack/vue-query'
import { useIntervalFn } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'
import type { Schemas } from '../../api/client'
import { editLecture, undoChange, useForgottenStarts } from '../../api/timetable'
import FaultNote from '../../parts/FaultNote.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'
import { collegeNow } from '../../parts/clock'

const { t } = useI18n()
const route = useRoute()
const client = useQueryClient()
const list = useForgottenStarts()
const now = ref(collegeNow())
useIntervalFn(() => (now.value = collegeNow()), 10_000)
/** At the capture desk of the lecture itself the start is before one's eyes. */
const shown = computed(() =>
  (list.data.value?.lectures ?? []).filter(
    (l) => !(route.name === 'capture-desk' && route.params.lecture === l.lecture_id),
  ),
)
const late = (starts: string) => Math.max(1, Math.floor((now.value - Date.parse(starts)) / 60_000))
const off = ref<{ change: string; of: Schemas['ForgottenLine'] }>()
const { busy, problem, send } = useForm()

async function callOff(l: Schemas['ForgottenLine']) {
  const done = await send(() => editLecture(l.lecture_id, { called_off: true }))
  if (done) off.value = { change: done.change, of: l }
  void client.invalidateQueries({ queryKey: ['forgotten'] })
}
</script>

<template>
  <aside v-if="shown.length > 0 || off" class="forgotten" :aria-label="t('forgotten_start.name')">
    <div v-for="l in shown" :key="l.lecture_id" class="line" role="alert">
      <b>{{
        t(
          'forgotten_start.text',
          { course: l.course, hall: l.hall ? t('plan.in_hall', { hall: l.hall }) : '', n: late(l.starts_at) },
          late(l.starts_at),
        )
      }}</b>
      <el-button tag="router-link" type="primary" :to="{ name: 'capture-desk', params: { lecture: l.lecture_id } }">{{
        t('lecture.capture')
      }}</el-button>
      <el-button link :disabled="busy" @click="callOff(l)">
        {{ t('forgotten_start.off') }}
      </el-button>
    </div>
    <FaultNote v-if="problem" :error="problem" />
    <UndoLine
      v-if="off"
      :key="off.change"
      :text="t('forgotten_start.called_off', { course: off.of.course })"
      :undo="() => undoChange(off!.of.course_id, off!.change)"
      @undone="client.invalidateQueries({ queryKey: ['forgotten'] })"
    />
  </aside>
</template>

<style scoped>
.forgotten {
  padding: 8px 28px;
  border-bottom: 2px solid var(--tally);
  background: var(--tally-soft);
}

.line {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 18px;
  align-items: center;
}
</style>
