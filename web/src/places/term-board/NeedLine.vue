<script setup lang="ts">
/** What needs a hand, in words, each a link to where it is done. */
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { clockText } from '../../parts/time'

type Need = Schemas['Need']
const props = defineProps<{ board: Schemas['Board'] }>()
const emit = defineEmits<{ show: [lecture: string] }>()
const { t } = useI18n()

function words(n: Need): string {
  const late = Math.round((Date.parse(props.board.now) - Date.parse(n.starts_at)) / 60_000)
  const values = {
    n: n.count,
    course: n.course,
    week: n.week,
    hall: n.hall,
    cannot: n.cannot,
    of: n.of,
    late,
    time: clockText(n.starts_at, props.board.zone),
  }
  if (n.kind === 'capture') {
    if (n.count > 1) return t('need.capture_many', values)
    return late > 0 ? t('need.capture_late', values) : t('need.capture_soon', values)
  }
  return t(n.count > 1 ? `need.${n.kind}_many` : `need.${n.kind}`, values)
}

type Door = Schemas['Door']

/** So many closed doors are said, each in its own line. */
const doors = 3

/** Where a door is opened: by the rule, or where one sees why it is dark. */
const hinge = (d: Door) => ({ name: d.reason === 'not_lit' ? 'sight' : 'rule', params: { course: d.course_id } })

/** More than so many are a list: the courses that they are in. */
const many = 6

/** So many of those that came in during the night are named. */
const most = 6

/** Where the need is met: the place itself for one, and for many where many are met at once, or the first of them. */
function place(n: Need) {
  if (n.count > many) return { name: 'board', query: { waits: n.kind } }
  if (n.kind === 'capture' || n.kind === 'stop') return { name: 'capture-desk', params: { lecture: n.lecture_id } }
  if (n.kind === 'rule' || n.kind === 'part_lit') return { name: 'rule', params: { course: n.course_id } }
  if (n.kind === 'playlist') return { name: 'playlist', params: { course: n.course_id } }
  if (n.kind === 'tell') return { name: 'playlist', params: { course: n.course_id }, query: { tell: 'yes' } }
  if (n.kind === 'title' && n.count > 1) return { name: 'titles' }
  if (n.kind === 'words' && n.recording_id) return { name: 'captions', params: { recording: n.recording_id } }
  return n.recording_id ? { name: 'trim-bench', params: { recording: n.recording_id } } : undefined
}
</script>

<template>
  <p v-if="board.needs.length === 0 && board.files === 0" class="hand soft">{{ t('need.none') }}</p>
  <ul v-else class="hand plain" :aria-label="t('need.name')">
    <li v-for="n in board.needs" :key="n.kind" :class="{ urgent: n.kind === 'capture' || n.kind === 'stop' }">
      <router-link v-if="place(n)" :to="place(n)!">{{ words(n) }}</router-link>
      <el-button v-else link @click="emit('show', n.lecture_id)">{{ words(n) }}</el-button>
    </li>
    <li v-if="board.files > 0">
      <router-link :to="{ name: 'files' }">{{ t('need.files', { n: board.files }, board.files) }}</router-link>
    </li>
  </ul>
  <ul v-if="board.doors.length > 0" class="shut plain" :aria-label="t('shut_door.name')">
    <li v-for="d in board.doors.slice(0, doors)" :key="d.course_id + d.recording_id">
      <router-link :to="hinge(d)">{{
        t(`shut_door.${d.reason}`, { n: d.students, course: d.course, week: d.week }, d.students)
      }}</router-link>
    </li>
    <li v-if="board.doors.length > doors" class="soft">
      {{ t('shut_door.more', { n: board.doors.length - doors }, board.doors.length - doors) }}
    </li>
  </ul>
  <p v-if="board.night.length > 0" class="night soft">
    {{ t('night.came') }}
    <template v-for="(x, n) in board.night.slice(0, most)" :key="x.recording_id">
      <template v-if="n > 0">, </template>
      <router-link :to="{ name: 'trim-bench', params: { recording: x.recording_id } }">{{
        t('night.one', { course: x.course, week: x.week })
      }}</router-link>
    </template>
    {{ board.night.length > most ? t('night.more', { n: board.night.length - most }) : '' }}
  </p>
</template>

<style scoped>
.hand {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 0;
  margin: 2px 0 18px;
  font-size: 16px;
}

.hand li:not(:last-child)::after {
  content: '·';
  margin: 0 8px;
  color: var(--ink-3);
}

.hand:has(+ .night),
.hand:has(+ .shut),
.shut:has(+ .night) {
  margin-bottom: 4px;
}

.shut {
  margin: 0 0 18px;
}

.night {
  margin-bottom: 18px;
}

.urgent a {
  font-weight: 700;
}
</style>
