<script setup lang="ts">
/** A day along the clock: halls are columns, and a line across them says now. */
import { useIntervalFn } from '@vueuse/core'
import { computed, ref, watch, watchEffect } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import type { Schemas } from '../../api/client'
import { useRunSheet } from '../../api/timetable'
import DayPick from '../../parts/DayPick.vue'
import FaultNote from '../../parts/FaultNote.vue'
import LevelMeter from '../../parts/LevelMeter.vue'
import RecorderSign from '../../parts/RecorderSign.vue'
import { collegeNow } from '../../parts/clock'
import { clockText, dateText } from '../../parts/time'
import { nameTab } from '../../router'
import { dayAfter } from '../../parts/days'
import RunEntry from './RunEntry.vue'

const { t } = useI18n()
const route = useRoute()
const router = useRouter()
const day = computed(() => (typeof route.query.day === 'string' ? route.query.day : ''))
const sheet = useRunSheet(day)
const it = computed(() => sheet.data.value)
const now = ref(collegeNow())
useIntervalFn(() => (now.value = collegeNow()), 10_000)

/** minute is how far into the day a moment lies, by the clock of the college. */
function minute(iso: string): number {
  const [h = 0, m = 0] = clockText(iso, it.value!.zone).split(':').map(Number)
  return h * 60 + m
}
const end = (l: Schemas['LectureDate']) => {
  const last = minute(l.ends_at)
  return last > minute(l.starts_at) ? last : 24 * 60
}
const hours = computed(() => {
  const all = it.value?.entries.map((e) => e.lecture) ?? []
  const from = Math.min(9 * 60, ...all.map((l) => minute(l.starts_at)))
  const to = Math.max(17 * 60, ...all.map(end))
  return { from: Math.floor(from / 60), to: Math.ceil(to / 60) }
})
const scale = 1.15 // pixels a minute
const top = (minutes: number) => (minutes - hours.value.from * 60) * scale
const nowAt = computed(() => top(minute(new Date(now.value).toISOString())))
const nowShown = computed(
  () => it.value?.today && nowAt.value >= 0 && nowAt.value <= (hours.value.to - hours.value.from) * 60 * scale,
)
const noHall = (h: string) => h || t('plan.no_hall')
const at = (d: string) => `${d}T12:00:00Z`
const title = computed(() => {
  if (!it.value) return ''
  return it.value.today ? t('run.today', { day: dateText(at(it.value.day), 'UTC') }) : dateText(at(it.value.day), 'UTC')
})
const go = (d: string) => router.push({ name: 'run-sheet', query: d ? { day: d } : {} })
watchEffect(() => nameTab(`${t('place.run_sheet')} · ${title.value}`))

/** Opened on today, the sheet shows the hour that is on. */
const body = ref<HTMLElement>()
watch(
  [body, () => it.value?.today],
  ([el, today]) => {
    if (el && today) el.scrollTop = Math.max(0, nowAt.value - 140)
  },
  { flush: 'post' },
)
</script>

<template>
  <FaultNote
    v-if="sheet.error.value && !it"
    :error="sheet.error.value"
    :missing="t('board.no_term')"
    again
    @again="sheet.refetch()"
  />
  <section v-if="it">
    <div class="bar-of-acts">
      <h1>{{ title }}</h1>
      <span class="soft">{{ it.week ? t('sheet.week', { n: it.week }) : it.break }}</span>
      <span class="push bar-of-acts">
        <el-button @click="go(dayAfter(it.day, -1))">{{ t('run.before') }}</el-button>
        <el-button :disabled="it.today" @click="go('')">{{ t('run.to_today') }}</el-button>
        <el-button @click="go(dayAfter(it.day))">{{ t('run.after') }}</el-button>
        <DayPick :model-value="it.day" :label="t('run.day')" @update:model-value="go" />
      </span>
    </div>
    <p v-if="it.entries.length === 0" class="page">
      {{ t(it.break ? 'run.in_break' : 'run.none', { break: it.break }) }}
    </p>
    <div v-else ref="body" class="sheet page" tabindex="0" role="region" :aria-label="title">
      <div class="head" :style="{ '--halls': it.halls.length }">
        <span />
        <span v-for="h in it.halls" :key="h" class="of-hall">
          <b>{{ noHall(h) }}</b>
          <template v-for="x in it.recorders.filter((r) => r.hall === h)" :key="x.hall">
            <RecorderSign class="small" :recorder="x.recorder" :zone="it.zone" />
            <LevelMeter
              v-if="x.recorder.capturing && x.recorder.level_db !== undefined"
              :name="t('halls.level', { hall: h })"
              :rms="x.recorder.level_db"
              :peak="x.recorder.level_db"
            />
          </template>
        </span>
      </div>
      <div class="grid" :style="{ '--halls': it.halls.length, height: `${(hours.to - hours.from) * 60 * scale}px` }">
        <span
          v-for="h in hours.to - hours.from"
          :key="h"
          class="hour mono soft"
          :style="{ top: `${(h - 1) * 60 * scale}px` }"
          >{{ String(hours.from + h - 1).padStart(2, '0') }}:00</span
        >
        <ul v-for="(h, n) in it.halls" :key="h" class="plain hall" :style="{ '--n': n }" :aria-label="noHall(h)">
          <li
            v-for="e in it.entries.filter((x) => x.lecture.hall === h)"
            :key="e.lecture.id"
            :style="{
              top: `${top(minute(e.lecture.starts_at))}px`,
              height: `${Math.max(44, (end(e.lecture) - minute(e.lecture.starts_at)) * scale - 3)}px`,
              insetInlineStart: `${(e.beside / e.of) * 100}%`,
              width: `calc(${100 / e.of}% - 4px)`,
            }"
          >
            <RunEntry :entry="e" :zone="it.zone" :now="now" />
          </li>
        </ul>
        <div v-if="nowShown" class="now" :style="{ top: `${nowAt}px` }">
          <span class="mono">{{ t('run.now', { time: clockText(new Date(now).toISOString(), it.zone) }) }}</span>
        </div>
      </div>
    </div>
  </section>
</template>

<style scoped>
.sheet {
  position: relative;
  max-height: calc(100vh - 190px);
  margin-top: 12px;
  padding: 0 16px 16px;
  overflow: auto;
}

.head,
.grid {
  display: grid;
  grid-template-columns: 64px repeat(var(--halls), minmax(190px, 1fr));
  min-width: calc(64px + var(--halls) * 190px);
}

.of-hall {
  display: flex;
  flex-direction: column;
  gap: 3px;
  padding-inline-end: 10px;
}

.head {
  position: sticky;
  top: 0;
  z-index: 3;
  padding: 10px 0;
  background: var(--shell);
  border-bottom: 1px solid var(--rule-strong);
}

.grid {
  position: relative;
  margin-top: 8px;
}

.hour {
  position: absolute;
  inset-inline: 0;
  border-top: 1px solid var(--rule);
  pointer-events: none;
}

.hall {
  position: relative;
  grid-column: calc(var(--n) + 2);
  grid-row: 1;
  border-inline-start: 1px solid var(--rule);
}

.hall li {
  position: absolute;
  margin-inline-start: 3px;
}

.now {
  position: absolute;
  inset-inline: 0;
  z-index: 2;
  border-top: 2px solid var(--ink);
  pointer-events: none;
}

.now span {
  position: absolute;
  top: -11px;
  inset-inline-start: 0;
  padding: 1px 6px;
  border-radius: 3px;
  background: var(--ink);
  color: var(--shell);
}
</style>
