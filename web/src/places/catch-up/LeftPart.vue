<script setup lang="ts">
/** What is left to catch up, and the one press with which to go on. */
import { computed, defineAsyncComponent, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import HadLine from '../../parts/HadLine.vue'
import { durationText, timecode } from '../../parts/time'

const PlanPart = defineAsyncComponent(() => import('./PlanPart.vue'))

const props = defineProps<{ left: Schemas['Left']; open: number }>()
const order = defineModel<'date' | 'next'>('order', { required: true })
const { t } = useI18n()
const planning = ref(false)
const sentence = computed(() => {
  const { lectures: n, missed_ms, needs_ms, speed } = props.left
  if (props.open === 0) return t('catch_up.none')
  if (n === 0) return t('catch_up.all_had', { n: props.open }, props.open)
  const parts = [t('catch_up.left', { n, left: durationText(missed_ms) }, n)]
  if (Math.abs(speed - 1) >= 0.05) parts.push(t('catch_up.at_speed', { speed, needs: durationText(needs_ms) }))
  return parts.join(' ')
})
const first = computed(() => props.left.first)
const whole = [{ start: 0, end: 1 }]
const legend = [
  { name: 'attended', attended: whole },
  { name: 'watched', watched: whole },
  { name: 'missed', missed: whole },
] as const
</script>

<template>
  <p class="sentence">{{ sentence }}</p>
  <div v-if="first" class="next">
    <el-button
      tag="router-link"
      type="primary"
      :to="{ name: 'watch', params: { recording: first.recording_id }, query: { at: first.start } }"
      >{{ t(first.start > 0 ? 'catch_up.go_on' : 'catch_up.begin', { title: first.title, at: timecode(first.start) }) }}
    </el-button>
    <el-button link :aria-expanded="planning" @click="planning = !planning">{{ t('catch_up.plan') }}</el-button>
    <ul class="plain legend small soft" :aria-label="t('catch_up.legend')">
      <li v-for="l in legend" :key="l.name"><HadLine :length="1" v-bind="l" /> {{ t(`catch_up.line_${l.name}`) }}</li>
    </ul>
  </div>
  <PlanPart v-if="planning && first" v-model:order="order" />
</template>

<style scoped>
.sentence {
  margin-bottom: 12px;
  font: 20px/1.4 var(--serif);
}

.next {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 22px;
  align-items: center;
  margin-bottom: 16px;
}

.next > .el-button {
  max-width: 100%;
  height: auto;
  min-height: 40px;
  margin: 0;
  white-space: normal;
}

.legend {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
  margin-inline-start: auto;
}

.legend li {
  display: flex;
  gap: 6px;
  align-items: center;
}

.had {
  width: 26px;
}
</style>
