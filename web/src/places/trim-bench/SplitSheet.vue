<script setup lang="ts">
/** Makes two recordings of one: what comes from a moment on goes where it belongs. */
import { useQueryClient } from '@tanstack/vue-query'
import { useI18n } from 'vue-i18n'
import { keys } from '../../api/queries'
import { rearranged, split, useLecturesAfter } from '../../api/bench'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'
import PageSheet from '../../parts/PageSheet.vue'
import { clockText, timecode } from '../../parts/time'

const props = defineProps<{ open: boolean; recording: string; at: number; zone: string }>()
const emit = defineEmits<{ close: [] }>()
const { t } = useI18n()
const client = useQueryClient()
const after = useLecturesAfter(() => props.recording)
const { busy, problem, send } = useForm()

async function to(lecture?: string) {
  const made = await send(() => split(props.recording, props.at, lecture))
  if (!made) return
  client.setQueryData(keys.recording(props.recording), made.bench)
  rearranged(client)
  emit('close')
}
</script>

<template>
  <PageSheet :open="open" :title="t('split.title')" @close="emit('close')">
    <p>{{ t('split.text', { at: timecode(at, true) }) }}</p>
    <h3>{{ t('split.to') }}</h3>
    <ul class="plain">
      <li>
        <el-button type="primary" :disabled="busy" @click="to()">{{ t('split.same') }}</el-button>
      </li>
      <li v-for="l in after.data.value?.lectures" :key="l.id">
        <el-button :disabled="busy" @click="to(l.id)">
          {{ l.course }} {{ l.course_title }}, {{ clockText(l.starts_at, zone) }} {{ l.hall }}
          <template v-if="l.topic">· {{ l.topic }}</template>
        </el-button>
        <span v-if="l.captured" class="soft small">{{ t('split.captured') }}</span>
      </li>
    </ul>
    <p v-if="after.data.value && after.data.value.lectures.length === 0" class="soft small">{{ t('split.none') }}</p>
    <FaultNote v-if="problem" :error="problem" />
  </PageSheet>
</template>

<style scoped>
li {
  margin: 8px 0;
}

li .el-button {
  justify-content: flex-start;
  text-align: start;
}

.small {
  display: block;
}
</style>
