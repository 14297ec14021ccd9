<script setup lang="ts">
/** The cut list as a file for an editing program, and back. */
import { useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { keys, takeTimeline } from '../../api/queries'

const props = defineProps<{ recording: string }>()
const emit = defineEmits<{ fault: [e: unknown] }>()
const { t } = useI18n()
const client = useQueryClient()
const input = ref<HTMLInputElement>()
const taken = ref(false)

async function take() {
  const file = input.value?.files?.[0]
  if (!file) return
  if (input.value) input.value.value = '' // so that the same file can be chosen again
  taken.value = false
  emit('fault', undefined)
  try {
    const bench = await takeTimeline(props.recording, await file.text())
    client.setQueryData(keys.recording(props.recording), bench)
    void client.invalidateQueries({ queryKey: keys.strip(props.recording) })
    void client.invalidateQueries({ queryKey: keys.board })
    taken.value = true
  } catch (e) {
    emit('fault', e)
  }
}
</script>

<template>
  <span class="cut-file soft small">
    {{ t('cut_file.name') }}
    <a :href="`/api/recordings/${recording}/timeline.otio`" download>{{ t('cut_file.out') }}</a>
    <button class="word" type="button" @click="input?.click()">{{ t('cut_file.in') }}</button>
    <input
      ref="input"
      class="away"
      type="file"
      accept=".otio,application/json"
      :aria-label="t('cut_file.in')"
      tabindex="-1"
      @change="take"
    />
    <span v-if="taken" role="status">{{ t('cut_file.taken') }}</span>
  </span>
</template>

<style scoped>
.cut-file {
  position: relative;
  display: inline-flex;
  flex-wrap: wrap;
  gap: 0 12px;
}
</style>
