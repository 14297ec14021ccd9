<script setup lang="ts">
/** A lecture that took place and has no recording in the playlist: why, and the press that mends it. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { setDeleted } from '../../api/bench'
import type { Schemas } from '../../api/client'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'
import { dayAndClock } from '../../parts/time'

const props = defineProps<{ gap: Schemas['GapLine']; zone: string; course: { id: string; code: string } }>()
const { t } = useI18n()
const client = useQueryClient()
const form = useForm()
const what = computed(() => props.gap.topic || dayAndClock(props.gap.starts_at, props.zone))
/** Where it is mended; what lies in the bin, here. */
const place = computed(() => {
  const { why, next, recording_id: recording, lecture_id: lecture } = props.gap
  if (next === 'rule') return { name: 'rule', params: { course: props.course.id } }
  return why === 'waits' ? { name: 'trim-bench', params: { recording } } : { name: 'lecture', params: { lecture } }
})
const act = computed(() => {
  const { why, next } = props.gap
  if (why === 'waits' && next) return t(`step_do.${next}`, { course: props.course.code })
  return t(why === 'empty' ? 'step_do.again' : 'playlist.bring_file')
})

async function back() {
  const done = await form.send(async () => (await setDeleted(props.gap.recording_id!, false), true))
  if (done) void client.invalidateQueries()
}
</script>

<template>
  <li class="gap">
    <span class="week soft">{{ t('sheet.week', { n: gap.week }) }}</span>
    <span class="soft"
      ><i>{{ what }}</i> · {{ t(`playlist.why.${gap.why}`) }}</span
    >
    <el-button v-if="gap.why === 'bin'" link :disabled="form.busy.value" @click="back">{{
      t('playlist.from_bin')
    }}</el-button>
    <router-link v-else :to="place" :aria-label="`${act}: ${what}`">{{ act }}</router-link>
    <FaultNote v-if="form.whole.value" :error="form.whole.value" />
  </li>
</template>

<style scoped>
.gap {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  align-items: center;
  padding: 9px 0 9px 40px;
  border-bottom: 1px dotted var(--rule-strong);
}

.week {
  min-width: 62px;
}

.gap > :nth-child(3) {
  margin-inline-start: auto;
}
</style>
