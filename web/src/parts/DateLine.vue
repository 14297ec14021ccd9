<script setup lang="ts">
/** One dated lecture, with its address; today's cannot be mistaken for another. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../api/client'
import LanternSign from './LanternSign.vue'
import { dateText, dayAndClock, hoursText } from './time'

const props = defineProps<{
  date: Schemas['LectureDate']
  zone: string
  /** Where several courses stand together, each line names its own. */
  withCourse?: boolean
  today?: boolean
}>()
const { t } = useI18n()
const name = computed(() => props.date.topic || props.date.course_title)
const marks = computed(() => {
  const d = props.date
  const out: string[] = []
  if (d.state === 'off') out.push(t('date.off'))
  else if (d.running) out.push(t('date.running'))
  else if (d.state === 'on' && !d.ahead) out.push(t('date.on'))
  if (d.was && d.state !== 'off') out.push(t('date.moved', { from: dayAndClock(d.was, props.zone) }))
  if (d.ahead) out.push(t('date.ahead'))
  else if (d.unplanned) out.push(t('date.unplanned'))
  return out
})
</script>

<template>
  <div class="date" :class="{ off: date.state === 'off', over: date.state === 'over', today, running: date.running }">
    <span class="when">
      <b v-if="today">{{ t('date.today') }}</b>
      <template v-else-if="!date.ahead">{{ dateText(date.starts_at, zone) }}</template>
      <span v-if="!date.ahead" class="mono">{{ hoursText(date.starts_at, date.ends_at, zone) }}</span>
    </span>
    <span class="what">
      <router-link :to="{ name: 'lecture', params: { lecture: date.id } }" :class="{ gone: date.state === 'off' }"
        ><b v-if="withCourse" class="of">{{ date.course }}</b
        >{{ name }}</router-link
      >
      <span class="soft small">
        <template v-if="date.week">{{ t('sheet.week', { n: date.week }) }}</template>
        <template v-if="date.hall"> · {{ date.hall }}</template>
      </span>
      <span
        v-for="m in marks"
        :key="m"
        class="mark small"
        :class="{ tally: date.running && m === t('date.running') }"
        >{{ m }}</span
      >
    </span>
    <span v-if="date.light && !date.running" class="light small">
      <LanternSign :state="date.light" :can="1" :of="2" mute :size="20" />
      {{ t(`date.${date.light}`) }}
    </span>
    <router-link
      v-if="date.recording_id && !date.running"
      class="small"
      :to="{ name: 'watch', params: { recording: date.recording_id } }"
      :aria-label="t('date.watch_it', { title: name })"
      >{{ t('date.watch') }}</router-link
    >
  </div>
</template>

<style scoped>
.date {
  display: grid;
  grid-template-columns: 196px minmax(0, 1fr) auto auto;
  gap: 4px 16px;
  align-items: baseline;
  width: 100%;
}

.when {
  display: flex;
  gap: 12px;
  justify-content: space-between;
}

.when b {
  font-family: var(--serif);
}

.what {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  align-items: baseline;
}

.light {
  display: flex;
  gap: 6px;
  align-items: center;
  color: var(--ink-2);
}

.of {
  margin-inline-end: 0.4em;
}

.mark {
  padding: 0 6px;
  border: 1px solid var(--rule-strong);
  border-radius: 3px;
  color: var(--ink-2);
}

.mark.tally {
  border-color: var(--tally);
  color: var(--tally);
}

.today {
  padding: 12px 16px;
  border-inline-start: 5px solid var(--kelp);
  background: var(--kelp-soft);
  font-size: 17px;
}

.off .when {
  text-decoration: line-through;
  color: var(--ink-3);
}

@media (max-width: 700px) {
  .date {
    grid-template-columns: minmax(0, 1fr);
  }

  .when {
    justify-content: flex-start;
  }
}
</style>
