<script setup lang="ts">
/** One course: a thin line through its weeks on which the lectures hang as lanterns. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import LanternSign from '../../parts/LanternSign.vue'
import RunningTime from '../../parts/RunningTime.vue'
import { dayAndClock } from '../../parts/time'

type Cell = Schemas['Lantern']
const props = defineProps<{
  course: Schemas['Row']
  weeks: Schemas['Week'][]
  now: string
  chosen: string
  zone: string
}>()
const emit = defineEmits<{ show: [lecture: string] }>()
const { t } = useI18n()

const byWeek = computed(() => {
  const out = new Map<string, Cell[]>()
  for (const l of props.course.lectures) out.set(l.monday, [...(out.get(l.monday) ?? []), l])
  return out
})

const asks = (l: Cell) => l.next !== '' && l.next !== 'wait'

/** Under a lantern stands only what differs. */
function under(l: Cell): string {
  if (asks(l)) return t(`step.${l.next}`)
  switch (l.state) {
    case 'lit':
      return String(l.can)
    case 'part_lit':
      return `${l.can}/${props.course.students}`
    case 'planned':
      return ''
    default:
      return t(`state.${l.state}`)
  }
}

function label(l: Cell): string {
  const parts = [
    props.course.code,
    l.ahead ? t('date.ahead') : dayAndClock(l.starts_at, props.zone),
    t(`light.${l.state}`, { can: l.can, of: props.course.students }),
    l.topic,
  ]
  if (asks(l)) parts.push(t('board.next', { step: t(`step.${l.next}`) }))
  return parts.filter(Boolean).join(', ')
}
</script>

<template>
  <div class="row" :style="{ '--weeks': weeks.length }">
    <div class="name">
      <router-link class="code" :to="{ name: 'course', params: { course: course.id } }">{{ course.code }}</router-link>
      <div>{{ course.title }}</div>
      <div class="soft small">{{ [...course.lecturers, ...course.halls].join(' · ') }}</div>
      <div class="ways small">
        <router-link :to="{ name: 'playlist', params: { course: course.id } }">{{ t('board.playlist') }}</router-link>
        <router-link :to="{ name: 'rule', params: { course: course.id } }">{{ t('board.rule') }}</router-link>
      </div>
    </div>
    <div
      v-for="w in weeks"
      :key="w.monday"
      class="cell"
      :class="{ now: w.monday === now, chosen: w.monday === chosen && chosen !== now, off: w.number === 0 }"
    >
      <button
        v-for="l in byWeek.get(w.monday) ?? []"
        :key="l.id"
        class="hangs"
        :class="{ asks: asks(l), urgent: l.next === 'capture' || l.next === 'stop' }"
        type="button"
        :aria-label="label(l)"
        :title="l.topic"
        @click="emit('show', l.id)"
      >
        <LanternSign :state="l.state" :can="l.can" :of="course.students" mute :class="{ due: l.next === 'capture' }" />
        <RunningTime
          v-if="l.state === 'capturing'"
          class="tally mono"
          :held="l.held_ms ?? 0"
          :phase="l.phase ?? 'runs'"
        />
        <span v-else>{{ under(l) }}</span>
      </button>
    </div>
  </div>
</template>

<style scoped>
.row {
  display: grid;
  grid-template-columns: 250px repeat(var(--weeks), minmax(0, 1fr));
  min-height: 92px;
  border-bottom: 1px solid var(--rule);
}

.name {
  padding: 12px 16px;
  border-right: 1px solid var(--rule);
}

.code {
  color: var(--ink);
  font: 600 16px var(--serif);
}

.ways {
  display: flex;
  gap: 14px;
}

.cell {
  position: relative;
  display: flex;
  justify-content: center;
}

.cell::before {
  content: '';
  position: absolute;
  top: 16px;
  left: 0;
  right: 0;
  border-top: 1px solid var(--rule-strong);
}

.cell.off::before {
  border-top-style: dotted;
}

.cell.now {
  background: var(--kelp-soft);
}

.cell.chosen {
  background: var(--struck);
}

.hangs {
  position: relative;
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 3px;
  min-width: 44px;
  max-width: 100%;
  padding: 12px 2px 8px;
  border: 0;
  background: none;
  color: var(--ink-2);
  font-size: 12px;
  cursor: pointer;
}

.hangs:hover {
  background: var(--kelp-soft);
}

.asks {
  color: var(--ink);
  font-weight: 700;
}

.urgent span {
  border-bottom: 2px solid var(--ink);
}

.due :deep(.body) {
  opacity: 1;
}
</style>
