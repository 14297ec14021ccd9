<script setup lang="ts">
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { useCatchUp } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import LanternSign from '../../parts/LanternSign.vue'
import RunningTime from '../../parts/RunningTime.vue'
import { dateText, dayAndClock, timecode } from '../../parts/time'
import { nameTab } from '../../router'

type Line = Schemas['CatchUpLine']
const { t } = useI18n()
const list = useCatchUp()
nameTab(t('place.catch_up'))

/** The courses, and what is open beside them. */
const sections = computed(() => {
  const { courses = [], opened = [] } = list.data.value ?? {}
  const own = courses.map((c) => ({ id: c.course.id, name: `${c.course.code} ${c.course.title}`, entries: c.entries }))
  return opened.length > 0 ? [...own, { id: 'opened', name: t('opened.title'), entries: opened }] : own
})
const all = computed(() => sections.value.flatMap((c) => c.entries.filter((e) => e.recording_id)))
const open = computed(() => all.value.filter((e) => e.open))
const begun = computed(() => open.value.filter((e) => e.seen_ms > 0 && !e.seen))
const left = computed(() => open.value.reduce((sum, e) => sum + (e.seen ? 0 : e.length_ms - e.seen_ms), 0))
const sentence = computed(() => {
  if (open.value.length === 0) return t('catch_up.none')
  const parts = [t('catch_up.open', { n: open.value.length, left: timecode(left.value) }, open.value.length)]
  if (begun.value.length > 0) parts.push(t('catch_up.begun', { n: begun.value.length }, begun.value.length))
  return parts.join(' ')
})
const share = (e: Line) => (e.length_ms > 0 ? Math.min(100, (e.seen_ms / e.length_ms) * 100) : 0)
</script>

<template>
  <FaultNote
    v-if="list.error.value && !list.data.value"
    :error="list.error.value"
    :missing="t('board.no_term')"
    again
    @again="list.refetch()"
  />
  <section v-if="list.data.value">
    <h1>{{ t('place.catch_up') }}</h1>
    <p class="sentence">{{ sentence }}</p>
    <div v-for="l in list.data.value.live" :key="l.recording_id" class="page live">
      <LanternSign state="capturing" />
      <div>
        <b>{{ t('catch_up.live', { course: l.course }) }}</b> {{ l.title }} ·
        <RunningTime class="mono tally" :held="l.held_ms" :phase="l.phase" />
      </div>
      <el-button
        v-if="l.enter"
        tag="router-link"
        type="primary"
        :to="{ name: 'watch', params: { recording: l.recording_id } }"
        >{{ t('catch_up.follow') }}</el-button
      >
      <el-button v-else tag="router-link" type="primary" :to="{ name: 'lecture', params: { lecture: l.lecture_id } }">{{
        t('catch_up.to_door')
      }}</el-button>
    </div>
    <section v-for="c in sections" :key="c.id" class="page course">
      <h2>{{ c.name }}</h2>
      <p v-if="!c.entries.some((e) => e.recording_id)" class="soft">{{ t('catch_up.empty') }}</p>
      <ol v-else class="plain">
        <template v-for="(e, n) in c.entries" :key="e.recording_id ?? `h${n}`">
          <li v-if="e.heading" class="heading">{{ e.heading }}</li>
          <li v-else class="lecture" :class="{ closed: !e.open }">
            <span class="week soft">{{ e.week ? t('sheet.week', { n: e.week }) : '' }}</span>
            <span class="title">
              <router-link v-if="e.open" :to="{ name: 'watch', params: { recording: e.recording_id } }">{{
                e.title
              }}</router-link>
              <span v-else>{{ e.title }}</span>
              <span v-if="e.starts_at" class="soft small beside">
                {{ dateText(e.starts_at, list.data.value.zone) }}</span
              >
              <span v-if="!e.open" class="soft small why">
                {{
                  e.opens
                    ? t('door.not_yet_at', { at: dayAndClock(e.opens, list.data.value.zone) })
                    : t(`door.${e.reason}`)
                }}
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
    </section>
  </section>
</template>

<style scoped>
section {
  max-width: 900px;
}

.sentence {
  font: 20px/1.4 var(--serif);
}

.live {
  display: flex;
  flex-wrap: wrap;
  gap: 14px;
  align-items: center;
  margin-bottom: 16px;
}

.live .el-button {
  margin-inline-start: auto;
}

.course {
  margin-bottom: 16px;
}

.heading {
  padding: 16px 0 4px;
  font: 600 16px var(--serif);
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
