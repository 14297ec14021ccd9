<script setup lang="ts">
/** The entries of a playlist as a student finds them: what is open, how far they came, and why the rest is not. */
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { handoutAt } from '../../api/handouts'
import { bytesText, dateText, dayAndClock, timecode } from '../../parts/time'
import { underWeeks } from '../common/weeks'

type Line = Schemas['CatchUpLine']
defineProps<{ list: Schemas['CatchUpList']; course: string; zone: string }>()
const { t } = useI18n()
const share = (e: Line) => (e.length_ms > 0 ? Math.min(100, (e.seen_ms / e.length_ms) * 100) : 0)
</script>

<template>
  <ol class="plain">
    <template v-for="({ head, entry: e }, n) in underWeeks(list)" :key="e.recording_id ?? `h${n}`">
      <li v-if="head" class="heading">{{ t('sheet.week', { n: head }) }}</li>
      <li v-if="e.heading" class="heading">
        {{ e.heading }} <span v-if="e.about" class="below">{{ e.about }}</span>
      </li>
      <li v-else-if="e.address" class="lecture">
        <span class="week" />
        <a :href="e.address" target="_blank" rel="noopener noreferrer">{{ e.title }}</a>
      </li>
      <li v-else-if="e.file" class="lecture">
        <span class="week" />
        <span>
          <a :href="handoutAt(course, e.file.id)" download>{{ e.title }}</a>
          <span class="soft small beside"> {{ bytesText(e.file.bytes) }}</span>
        </span>
      </li>
      <li v-else class="lecture" :class="{ closed: !e.open }">
        <span class="week soft">{{ e.week ? t('sheet.week', { n: e.week }) : '' }}</span>
        <span class="title">
          <router-link v-if="e.open" :to="{ name: 'watch', params: { recording: e.recording_id } }">{{
            e.title
          }}</router-link>
          <span v-else>{{ e.title }}</span>
          <span v-if="e.parts" class="small beside"> {{ t('playlist.part', { part: e.part, of: e.parts }) }}</span>
          <span v-if="e.starts_at" class="soft small beside"> {{ dateText(e.starts_at, zone) }}</span>
          <span v-if="!e.open" class="soft small why">
            {{ e.opens ? t('door.not_yet_at', { at: dayAndClock(e.opens, zone) }) : t(`door.${e.reason}`) }}
          </span>
        </span>
        <span v-if="e.open" class="far">
          <template v-if="e.seen_ms > 0">
            <span
              class="track"
              role="img"
              :aria-label="t('catch_up.seen', { at: timecode(e.seen_ms), of: timecode(e.length_ms) })"
              ><i :style="{ width: `${share(e)}%` }"
            /></span>
            <span class="small soft">{{
              e.seen ? t('catch_up.all_seen') : t('catch_up.stopped', { at: timecode(e.seen_ms) })
            }}</span>
          </template>
        </span>
        <span v-if="e.open" class="mono soft">{{ timecode(e.length_ms) }}</span>
      </li>
    </template>
  </ol>
</template>

<style scoped>
.heading {
  padding: 16px 0 4px;
  font: 600 16px var(--serif);
}

.below {
  display: block;
  max-width: 640px;
  font: 15px/1.4 var(--sans);
}

.lecture {
  display: grid;
  grid-template-columns: 64px minmax(0, 1fr) 150px 56px;
  gap: 14px;
  align-items: center;
  min-height: 40px;
  padding: 6px 0;
  border-bottom: 1px solid var(--rule);
}

.beside {
  white-space: nowrap;
}

.why {
  display: block;
}

.track {
  display: block;
  height: 5px;
  border-bottom: 1px solid var(--edge);
}

.track i {
  display: block;
  height: 4px;
  background: var(--kelp);
}

@media (max-width: 700px) {
  .lecture {
    grid-template-columns: minmax(0, 1fr) 56px;
    gap: 0 14px;
  }

  .lecture .week {
    grid-column: 1 / -1;
    font-size: 13px;
  }

  .lecture .far {
    grid-column: 1 / -1;
    grid-row: 3;
  }
}
</style>
