<script setup lang="ts">
/** Ends a capture that still runs, where it stands: as when the page or computer that captured is gone. */
import { useQueryClient } from '@tanstack/vue-query'
import { useI18n } from 'vue-i18n'
import { endCapture, keys } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'

const props = defineProps<{ recording: string; lecture: string; text?: string }>()
const { t } = useI18n()
const client = useQueryClient()
const { busy, problem, act } = useForm()

async function end() {
  await act(() => endCapture(props.recording))
  for (const key of [keys.lecture(props.lecture), keys.board, ['recording', props.recording], ['run-sheet']])
    void client.invalidateQueries({ queryKey: key })
}
</script>

<template>
  <span>
    <el-button link type="primary" :disabled="busy" :title="t('live.end_help')" @click="end">{{
      text ?? t('live.end')
    }}</el-button>
    <FaultNote v-if="problem" :error="problem" />
  </span>
</template>
