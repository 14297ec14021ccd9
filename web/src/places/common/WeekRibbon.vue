<script setup lang="ts">
/**
 * The term as a line of its weeks, with today on it. Choosing a week moves the run sheet to it, shows what was recorded
 * in it, or else shows the term board at it.
 */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'
import { useTerm } from '../../api/timetable'
import { dateText } from '../../parts/time'

const { t } = useI18n()
const route = useRoute()
const term = useTerm()
const chosen = computed(() => (route.name === 'board' && route.query.week) || '')
const here = computed(() => route.name === 'run-sheet')
const chosenDay = computed(() => {
  if (!here.value) return ''
  const day = Date.parse(String(route.query.day ?? ''))
  const within = (monday: number) => monday <= day && day < monday + 7 * 86_400_000
  return term.data.value?.weeks.find((w) => within(Date.parse(w.monday)))?.monday ?? ''
})
/** Of the table of recordings, the week of which they are shown. */
const listed = computed(() => (route.name === 'recordings' && Number(route.query.week)) || 0)
const to = ({ monday, number }: { monday: string; number: number }) => {
  const now = monday === term.data.value?.monday
  if (route.name === 'recordings') {
    const week = number && number !== listed.value ? number : undefined
    return { name: 'recordings', query: { ...route.query, week } }
  }
  return here.value
    ? { name: 'run-sheet', query: now ? {} : { day: monday } }
    : { name: 'board', query: now ? {} : { week: monday } }
}
const label = (w: { monday: string; number: number; break: string }) => {
  if (!w.number) return t('ribbon.break', { name: w.break })
  const key = w.monday === term.data.value?.monday ? 'ribbon.this_week' : 'ribbon.week'
  return t(key, { n: w.number, date: dateText(`${w.monday}T12:00:00Z`, 'UTC') })
}
const weekName = (w: { number: number; break: string }) => (w.number ? String(w.number) : w.break)
</script>

<template>
  <nav
    v-if="term.data.value"
    class="ribbon"
    :style="{ '--weeks': term.data.value.weeks.length }"
    :aria-label="t('ribbon.name')"
  >
    <span class="term">{{ term.data.value.name }}</span>
    <router-link
      v-for="w in term.data.value.weeks"
      :key="w.monday"
      :to="to(w)"
      :class="{
        now: w.monday === term.data.value.monday,
        chosen: chosen === w.monday || chosenDay === w.monday || (w.number > 0 && listed === w.number),
        off: w.number === 0,
      }"
      :aria-label="label(w)"
      >{{ weekName(w)
      }}<template v-if="w.monday === term.data.value.monday"> · {{ t('ribbon.today') }}</template></router-link
    >
  </nav>
</template>

<style scoped>
.ribbon {
  display: grid;
  grid-template-columns: 250px repeat(var(--weeks), minmax(0, 1fr));
  padding: 0 29px;
  border-bottom: 1px solid var(--rule);
  font-size: 13px;
}

.ribbon > * {
  padding: 8px 2px 7px;
  overflow: hidden;
  color: var(--ink-3);
  text-align: center;
  text-decoration: none;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.ribbon .term {
  text-align: start;
}

.ribbon a:hover {
  color: var(--ink);
  background: var(--kelp-soft);
}

.ribbon a:focus-visible {
  outline-offset: -2px;
}

.now {
  color: var(--ink);
  font-weight: 700;
  box-shadow: inset 0 -3px 0 var(--kelp);
}

.chosen {
  color: var(--ink);
  box-shadow: inset 0 -3px 0 var(--edge);
}

.off {
  font-style: italic;
}

@media (max-width: 900px) {
  .ribbon {
    grid-template-columns: 90px repeat(var(--weeks), minmax(26px, 1fr));
    padding: 0 16px;
    overflow-x: auto;
  }
}
</style>
