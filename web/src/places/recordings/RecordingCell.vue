<script lang="ts">
/** What of a recording stands in a cell. */
export type CellName = 'choose' | 'course' | 'date' | 'title' | 'next' | 'can' | 'length' | 'size' | 'captions' | 'seen'
</script>

<script setup lang="ts">
/** A cell of the table of recordings. It takes no slots, so that one that scrolls by is drawn but once. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Course, Row } from '../../api/all'
import LanternSign from '../../parts/LanternSign.vue'
import { bytesText, dateText, timecode } from '../../parts/time'
import { asks, stepPlace } from '../common/steps'

const props = defineProps<{ column: CellName; row: Row; course?: Course; zone: string; chosen: boolean }>()
const emit = defineEmits<{ choose: [row: Row, on: boolean] }>()
const { t } = useI18n()
const bench = computed(() => ({ name: 'trim-bench', params: { recording: props.row.recording_id } }))
/** Where its next step is taken. */
const step = computed(() => {
  const lecture = { id: props.row.lecture_id, recording_id: props.row.recording_id }
  return stepPlace(props.row.next, lecture, props.course?.id ?? '') ?? bench.value
})
const stepText = computed(() => (props.row.next ? t(`step.${props.row.next}`) : ''))
const text = computed(() => {
  const r = props.row
  switch (props.column) {
    case 'length':
      return timecode(r.length_ms)
    case 'size':
      return bytesText(r.bytes)
    case 'captions':
      return r.captions ? t('all.captioned') : ''
    case 'seen':
      return String(r.seen ?? 0)
    default:
      return ''
  }
})
</script>

<template>
  <el-checkbox
    v-if="column === 'choose'"
    :model-value="chosen"
    :disabled="row.state === 'capturing'"
    @change="emit('choose', row, Boolean($event))"
    ><span class="away">{{ t('all.choose_it', { title: row.title }) }}</span></el-checkbox
  >
  <span v-else-if="column === 'course'" class="code">{{ course?.code }}</span>
  <span v-else-if="column === 'date'" class="two">
    {{ row.ahead ? t('date.ahead') : dateText(row.starts_at, zone) }}
    <span v-if="row.week" class="soft small">{{ t('sheet.week', { n: row.week }) }}</span>
  </span>
  <span v-else-if="column === 'title'" class="two title">
    <router-link :to="bench" :title="row.title">{{ row.title }}</router-link>
    <span v-if="row.bare" class="soft small">{{ t('titles.bare') }}</span>
  </span>
  <template v-else-if="column === 'next'">
    <router-link v-if="asks(row)" :to="step" :aria-label="t('all.step_of', { step: stepText, title: row.title })">{{
      stepText
    }}</router-link>
    <span v-else>{{ stepText }}</span>
  </template>
  <span v-else-if="column === 'can'" class="light">
    <LanternSign :state="row.state" :can="row.can" :of="row.of" :size="20" mute />
    <span class="two">
      {{ row.state === 'capturing' ? t('state.capturing') : t('all.n_of', { can: row.can, of: row.of }) }}
      <span v-if="row.elsewhere" class="soft small">{{ t('all.elsewhere', { n: row.elsewhere }, row.elsewhere) }}</span>
    </span>
  </span>
  <span v-else :class="{ mono: column === 'length' }">{{ text }}</span>
</template>

<style scoped>
.two {
  display: flex;
  flex-direction: column;
  min-width: 0;
  line-height: 1.3;
}

.title > * {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.light {
  display: flex;
  gap: 8px;
  align-items: center;
}

.code {
  font-weight: 600;
}
</style>
