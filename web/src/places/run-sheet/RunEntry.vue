<script setup lang="ts">
/** A lecture on the run sheet: its lantern, who captures it, how much of it is safe, and what is needed now. */
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import AtDoor from '../common/AtDoor.vue'
import EndCapture from '../common/EndCapture.vue'
import LanternSign from '../../parts/LanternSign.vue'
import PageSheet from '../../parts/PageSheet.vue'
import { dayAndClock, hoursText, timecode } from '../../parts/time'
import { stepPlace } from '../common/steps'

const props = defineProps<{ entry: Schemas['RunLine']; zone: string; now: number }>()
const { t } = useI18n()
const atDoor = ref(false)
const l = computed(() => props.entry.lecture)
const step = computed(() => {
  const c = props.entry.cell
  if (c.next === '' || c.next === 'wait') return undefined
  return stepPlace(c.next, c, l.value.course_id)
})
const late = computed(() => Math.floor((props.now - Date.parse(l.value.starts_at)) / 60_000))
const stopped = computed(() => Math.floor((props.now - Date.parse(l.value.ends_at)) / 60_000))
</script>

<template>
  <div
    class="entry-of"
    :class="{
      off: l.state === 'off',
      running: l.running,
      wanted: entry.cell.next === 'capture' || entry.cell.next === 'stop',
      forgotten: entry.forgotten,
    }"
  >
    <LanternSign :state="entry.cell.state" :can="entry.cell.can" :of="entry.cell.of" :size="26" />
    <div class="words">
      <router-link :to="{ name: 'lecture', params: { lecture: l.id } }" :class="{ gone: l.state === 'off' }"
        ><b>{{ l.course }}</b> {{ l.topic || l.course_title }}</router-link
      >
      <div class="soft small">{{ hoursText(l.starts_at, l.ends_at, zone) }} · {{ entry.lecturers.join(', ') }}</div>
      <div v-if="l.state === 'off'" class="small">{{ t('date.off') }}</div>
      <div v-else-if="l.running && (l.phase === 'broken' || l.phase === 'paused')" class="small">
        {{ t(`live.held_${l.phase}`, { length: timecode(entry.stored_ms) }) }}
        <EndCapture v-if="entry.runs && l.phase === 'broken'" :recording="entry.runs" :lecture="l.id" />
      </div>
      <div v-else-if="l.running" class="small tally">
        {{ t('run.by', { name: entry.by }) }}
        <span class="mono">{{ t('run.safe', { at: timecode(entry.stored_ms) }) }}</span>
      </div>
      <div v-else-if="l.was" class="soft small">{{ t('date.moved', { from: dayAndClock(l.was, zone) }) }}</div>
      <el-button
        v-if="l.running || entry.waiting > 0"
        link
        class="small"
        :class="{ step: entry.waiting > 0 }"
        @click="atDoor = true"
      >
        {{ entry.waiting > 0 ? t('at_door.waits', { n: entry.waiting }, entry.waiting) : t('at_door.open') }}
      </el-button>
      <PageSheet :open="atDoor" :title="`${l.course} ${t('at_door.name')}`" @close="atDoor = false">
        <AtDoor :lecture="l.id" :zone="zone" />
      </PageSheet>
      <div v-if="l.unplanned" class="soft small">{{ t('date.unplanned') }}</div>
      <div v-if="!l.running && l.capture_auto && l.state !== 'over' && l.state !== 'off'" class="soft small">
        {{ t('run.itself') }}
      </div>
      <router-link v-if="step" class="small step" :class="{ tally: entry.forgotten }" :to="step">
        <template v-if="entry.cell.next === 'capture' && late > 0">{{ t('run.late', { n: late }, late) }}</template>
        <template v-else-if="entry.cell.next === 'stop' && stopped > 0">{{
          t('run.stop', { n: stopped }, stopped)
        }}</template>
        <template v-else>{{ t(`step_do.${entry.cell.next}`, { course: l.course }) }}</template>
      </router-link>
    </div>
  </div>
</template>

<style scoped>
.entry-of {
  display: flex;
  gap: 8px;
  height: 100%;
  padding: 6px 8px;
  overflow: hidden;
  border: 1px solid var(--rule-strong);
  border-radius: 4px;
  background: var(--fog);
}

.entry-of:focus-within,
.entry-of:hover {
  overflow: visible;
  height: auto;
  min-height: 100%;
}

.words {
  min-width: 0;
  line-height: 1.3;
}

.forgotten {
  border-color: var(--tally) !important;
  background: var(--tally-soft);
}

.wanted {
  border: 2px solid var(--ink);
}

.running {
  border: 2px solid var(--tally);
}

.off {
  border-style: dashed;
  background: none;
}

.step {
  font-weight: 700;
}
</style>
