<script setup lang="ts">
/** A recording that is not whole yet, or holds nothing: what is going on, and how far it is. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import EndCapture from '../common/EndCapture.vue'
import { megabytes, timecode } from '../../parts/time'

const props = defineProps<{ bench: Schemas['Bench'] }>()
const { t } = useI18n()
const phase = computed(() => props.bench.lecture.phase)
const uploading = computed(() => props.bench.source === 'file' && props.bench.stored_bytes < props.bench.size_bytes)
const minutes = computed(() => Math.ceil((props.bench.left_ms ?? 0) / 60_000))
const share = computed(() => {
  const b = props.bench
  const [done, all] = uploading.value ? [b.stored_bytes, b.size_bytes] : [b.length_ms, b.expected_ms]
  return all > 0 ? Math.min(100, Math.floor((done / all) * 100)) : 0
})
</script>

<template>
  <section class="state">
    <template v-if="bench.state === 'failed'">
      <p class="fault" role="alert">{{ t(`fault.${bench.fault}`) }}</p>
      <p class="soft">
        {{ t(bench.source === 'file' ? 'bench.failed_file' : 'bench.failed_desk', { name: bench.file_name }) }}
      </p>
      <el-button
        tag="router-link"
        type="primary"
        :to="{ name: 'capture-desk', params: { lecture: bench.lecture.id } }"
        >{{ t('bench.try_again') }}</el-button
      >
    </template>
    <template v-else-if="uploading">
      <p role="status">
        {{
          t('bench.arriving', {
            name: bench.file_name,
            done: megabytes(bench.stored_bytes),
            all: megabytes(bench.size_bytes),
          })
        }}
      </p>
      <el-progress :percentage="share" :aria-label="t('bench.progress')" />
    </template>
    <template v-else-if="!bench.stopped">
      <p v-if="phase === 'broken' || phase === 'paused'" role="status">
        {{ t(`live.held_${phase}`, { length: timecode(bench.length_ms) }) }}
      </p>
      <p v-else role="status" class="tally">{{ t('bench.running', { time: timecode(bench.length_ms) }) }}</p>
      <p><EndCapture :recording="bench.id" :lecture="bench.lecture.id" /></p>
      <p class="soft">{{ t('bench.running_help') }}</p>
    </template>
    <template v-else>
      <p role="status">
        <template v-if="bench.own_copy">
          {{ t('files.copying', { done: timecode(bench.length_ms), all: timecode(bench.expected_ms) }) }}
          {{ bench.left_ms !== undefined ? t('files.left', { n: minutes }, minutes) : '' }}
        </template>
        <template v-else>{{ t('bench.reading', { time: timecode(bench.length_ms) }) }}</template>
      </p>
      <el-progress v-if="bench.expected_ms > 0" :percentage="share" :aria-label="t('bench.progress')" />
    </template>
  </section>
</template>

<style scoped>
.state {
  padding: 26px 0;
}

.fault {
  padding: 8px 12px;
  border-inline-start: 3px solid var(--tally);
  background: var(--tally-soft);
}
</style>
