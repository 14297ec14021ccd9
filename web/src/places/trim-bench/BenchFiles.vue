<script setup lang="ts">
/** What goes out and comes in as a file: the original, and the cut list for an editing program. */
import { useQueryClient } from '@tanstack/vue-query'
import { ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { takeTimeline } from '../../api/bench'
import { keys } from '../../api/queries'
import { useChoosing } from '../../parts/choosing'
import { dateText } from '../../parts/time'

const props = defineProps<{ bench: Schemas['Bench'] }>()
const emit = defineEmits<{ fault: [e: unknown] }>()
const { t } = useI18n()
const client = useQueryClient()
const taken = ref(false)

async function take(file: File) {
  taken.value = false
  emit('fault', undefined)
  try {
    const bench = await takeTimeline(props.bench.id, await file.text(), props.bench.version)
    client.setQueryData(keys.recording(props.bench.id), bench)
    void client.invalidateQueries({ queryKey: keys.strip(props.bench.id) })
    void client.invalidateQueries({ queryKey: keys.board })
    taken.value = true
  } catch (e) {
    emit('fault', e)
  }
}

const choose = useChoosing(
  () => '.otio,application/json',
  false,
  ([file]) => take(file!),
)
</script>

<template>
  <p class="cut-file soft small">
    <span>{{ t('cut_file.name') }}</span>
    <a :href="`/api/recordings/${bench.id}/timeline.otio`" download>{{ t('cut_file.out') }}</a>
    <el-button link @click="choose">{{ t('cut_file.in') }}</el-button>
    <span v-if="taken" role="status">{{ t('cut_file.taken') }}</span>
    <span v-if="bench.original" class="original">
      {{
        bench.original_until
          ? t('originals.kept_until', { date: dateText(bench.original_until, bench.zone) })
          : t('originals.kept')
      }}
      <a :href="`/api/recordings/${bench.id}/original`" download>{{ t('originals.fetch') }}</a>
    </span>
  </p>
</template>

<style scoped>
.cut-file {
  position: relative;
  display: flex;
  flex-wrap: wrap;
  gap: 0 12px;
  margin: 6px 0 0;
  line-height: 24px;
}

.original {
  margin-inline-start: auto;
}
</style>
