<script setup lang="ts">
/** Lectures as they would be, each with what it would clash with. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { clockText, dateText, dayAndClock, hoursText } from '../../parts/time'

type Line = { key: string; at: string; lecture?: Schemas['ProposedDate']; skipped?: Schemas['SkippedDay'] }
const props = defineProps<{ dates: Schemas['PlanDates'] }>()
const { t } = useI18n()

const lines = computed<Line[]>(() => {
  const out: Line[] = props.dates.lectures.map((l) => ({
    key: l.lecture_id ?? l.starts_at,
    at: l.starts_at,
    lecture: l,
  }))
  for (const s of props.dates.skipped) out.push({ key: s.day, at: `${s.day}T12:00:00Z`, skipped: s })
  return out.sort((a, b) => a.at.localeCompare(b.at))
})

function clash(c: Schemas['Clash'], on: string): string {
  const zone = props.dates.zone
  const sameDay = dateText(c.starts_at, zone) === dateText(on, zone)
  const values = {
    course: c.course,
    hall: c.hall,
    lecturer: c.lecturer,
    hours: sameDay
      ? hoursText(c.starts_at, c.ends_at, zone)
      : `${dayAndClock(c.starts_at, zone)}–${clockText(c.ends_at, zone)}`,
  }
  if (c.in_hall && c.of_course) return t('clash.both', values)
  if (c.in_hall) return t('clash.hall', values)
  if (c.of_course) return t('clash.course', values)
  return t('clash.lecturer', values)
}
</script>

<template>
  <ol class="line-list dates">
    <li v-for="x in lines" :key="x.key" :class="{ clashing: x.lecture?.clashing }">
      <template v-if="x.lecture">
        <span class="when">
          {{ dateText(x.lecture.starts_at, dates.zone) }}
          <span class="mono">{{ hoursText(x.lecture.starts_at, x.lecture.ends_at, dates.zone) }}</span>
        </span>
        <span class="soft small week">{{
          x.lecture.week ? t('sheet.week', { n: x.lecture.week }) : x.lecture.break
        }}</span>
        <span v-if="x.lecture.topic" class="topic">{{ x.lecture.topic }}</span>
        <span v-if="x.lecture.stays" class="soft small">{{ t('plan.stays') }}</span>
        <span v-else-if="x.lecture.was && x.lecture.was !== x.lecture.starts_at" class="soft small">{{
          t('plan.was', { when: dayAndClock(x.lecture.was, dates.zone) })
        }}</span>
        <span v-if="x.lecture.clashing && x.lecture.clashes.length === 0" class="clashes">{{ t('clash.more') }}</span>
        <ul v-if="x.lecture.clashes.length > 0" class="plain clashes">
          <li v-for="c in x.lecture.clashes" :key="c.course + c.starts_at">
            <svg width="14" height="14" viewBox="0 0 14 14" aria-hidden="true">
              <path d="M1 4h8v6H1zM5 7h8v6H5z" fill="none" stroke="currentColor" stroke-width="1.5" />
            </svg>
            <router-link v-if="c.lecture_id" :to="{ name: 'lecture', params: { lecture: c.lecture_id } }">{{
              clash(c, x.lecture.starts_at)
            }}</router-link>
            <template v-else>{{ clash(c, x.lecture.starts_at) }}</template>
          </li>
        </ul>
      </template>
      <template v-else-if="x.skipped">
        <span class="when soft gone">{{ dateText(x.at, 'UTC') }}</span>
        <span class="soft small">{{ t('plan.left_out', { break: x.skipped.break }) }}</span>
      </template>
    </li>
  </ol>
</template>

<style scoped>
.when {
  display: flex;
  flex: 0 0 210px;
  gap: 12px;
  justify-content: space-between;
}

.week {
  flex: 0 0 64px;
}

.clashing {
  border-inline-start: 4px double var(--ink);
  padding-inline-start: 10px !important;
}

.clashes {
  flex-basis: 100%;
}

.clashes li {
  display: flex;
  gap: 8px;
  align-items: center;
  font-weight: 700;
}
</style>
