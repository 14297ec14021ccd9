<script setup lang="ts">
/** All recordings that one teaches, in one table; many are dealt with at once. */
import { computed, ref, watchEffect } from 'vue'
import { useI18n } from 'vue-i18n'
import { useAll } from '../../api/all'
import FaultNote from '../../parts/FaultNote.vue'
import { bytesText, timecode } from '../../parts/time'
import { nameTab } from '../../router'
import PlannedSteps from '../common/PlannedSteps.vue'
import AllFilters from './AllFilters.vue'
import ChosenRecordings from './ChosenRecordings.vue'
import RecordingTable from './RecordingTable.vue'
import { useChosen } from './chosen'
import { useWanted } from './wanted'

const { t } = useI18n()
const { wanted, set, some, clear, sorted } = useWanted()
const all = useAll(wanted)
const page = computed(() => all.data.value)
const rows = computed(() => page.value?.lines ?? [])
const chosen = useChosen(rows)
const bar = ref(0)
const sum = computed(() => {
  const p = page.value!
  const n = p.lines.length
  const values = { n, of: p.of, time: timecode(p.length_ms), size: bytesText(p.bytes) }
  return n === p.of ? t('all.sum', values, n) : t('all.some', values)
})
watchEffect(() => nameTab(t('place.recordings')))
</script>

<template>
  <section class="wide">
    <h1>{{ t('place.recordings') }}</h1>
    <FaultNote
      v-if="all.error.value"
      :error="all.error.value"
      :missing="t('board.no_term')"
      again
      @again="all.refetch()"
    />
    <template v-if="page">
      <AllFilters :wanted="wanted" :courses="page.courses" :weeks="page.weeks" @change="set" />
      <p class="sum soft">
        <span v-if="page.of > 0" role="status">{{ sum }}</span>
        <el-button v-if="some" link @click="clear">{{ t('all.clear') }}</el-button>
        <router-link class="push" :to="{ name: 'titles' }">{{ t('all.pattern') }}</router-link>
        <router-link :to="{ name: 'bin' }">{{ t('all.to_bin') }}</router-link>
      </p>
      <PlannedSteps :zone="page.zone" />
      <p v-if="page.of === 0" class="page">{{ t('all.empty') }}</p>
      <p v-else-if="rows.length === 0" class="page">{{ t('all.none') }}</p>
      <RecordingTable
        v-else
        v-model:sorted="sorted"
        :rows="rows"
        :courses="page.courses"
        :zone="page.zone"
        :chosen="chosen"
        :below="bar"
      />
      <ChosenRecordings :chosen="chosen" :courses="page.courses" :zone="page.zone" @height="(h) => (bar = h)" />
    </template>
  </section>
</template>

<style scoped>
.sum {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  align-items: center;
  margin: 8px 0;
}
</style>
