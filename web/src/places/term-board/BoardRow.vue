<script setup lang="ts">
/** One course: a thin line through its weeks on which the lectures hang as lanterns. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import LanternSign from '../../parts/LanternSign.vue'
import RunningTime from '../../parts/RunningTime.vue'
import { choosable, type useChoosing } from './choosing'
import type { Density } from './filter'
import { asks } from '../common/steps'
import { dayAndClock } from '../../parts/time'

type Cell = Schemas['Lantern']
const props = defineProps<{
  course: Schemas['Row']
  weeks: Schemas['Week'][]
  now: string
  chosen: string
  zone: string
  density: Density
  choosing: ReturnType<typeof useChoosing>
}>()
const emit = defineEmits<{ show: [lecture: string] }>()
const { t } = useI18n()

const picking = computed(() => props.choosing.on.value)
/** A press opens a lecture; while one chooses, or with a key held, it chooses it. */
function press(l: Cell, e: MouseEvent) {
  const chooses = picking.value || e.shiftKey || e.ctrlKey || e.metaKey
  if (!chooses) emit('show', l.id)
  else if (choosable(l)) props.choosing.one(l, e.shiftKey)
}
const every = computed(() => {
  const some = props.course.lectures.filter(choosable)
  return some.length > 0 && some.every((l) => props.choosing.has(l.id))
})

const byWeek = computed(() => {
  const out = new Map<string, Cell[]>()
  for (const l of props.course.lectures) out.set(l.monday, [...(out.get(l.monday) ?? []), l])
  return out
})

const sizes = { roomy: 26, close: 19, closest: 17 }

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
  <div class="row" :class="density" :style="{ '--weeks': weeks.length }">
    <div class="name">
      <el-checkbox
        v-if="picking"
        class="all"
        :model-value="every"
        :disabled="!course.lectures.some(choosable)"
        @change="props.choosing.row(course)"
        ><span class="away">{{ t('board.all_row', { course: course.code }) }}</span></el-checkbox
      >
      <router-link
        class="code"
        :title="density === 'closest' ? course.title : undefined"
        :to="{ name: 'course', params: { course: course.id } }"
        >{{ course.code }}</router-link
      >
      <div v-if="density !== 'closest'" class="title">{{ course.title }}</div>
      <div v-if="density === 'roomy'" class="soft small">
        {{ [...course.lecturers, ...course.halls].join(' · ') }}
      </div>
      <div v-if="density === 'roomy'" class="ways small">
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
        :class="{
          asks: asks(l),
          urgent: l.next === 'capture' || l.next === 'stop',
          picked: props.choosing.has(l.id),
          apart: picking && !choosable(l),
        }"
        type="button"
        :aria-pressed="picking ? props.choosing.has(l.id) : undefined"
        :aria-disabled="(picking && !choosable(l)) || undefined"
        :aria-label="label(l)"
        :title="density === 'closest' ? label(l) : l.topic"
        @click="press(l, $event)"
      >
        <LanternSign
          :state="l.state"
          :can="l.can"
          :of="course.students"
          mute
          :size="sizes[density]"
          :class="{ due: l.next === 'capture' }"
        />
        <RunningTime
          v-if="l.state === 'capturing' && density !== 'closest'"
          class="tally mono"
          :held="l.held_ms ?? 0"
          :phase="l.phase ?? 'runs'"
        />
        <span v-else-if="density !== 'closest'">{{ under(l) }}</span>
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
  border-inline-end: 1px solid var(--rule);
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
  inset-inline: 0;
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

.picked {
  background: var(--kelp-soft);
  outline: 2px solid var(--kelp);
  outline-offset: -2px;
}

.picked::after {
  content: '✓';
  position: absolute;
  top: 2px;
  inset-inline-end: 4px;
  color: var(--kelp);
  font: 700 12px/1 var(--sans);
}

.apart {
  opacity: 0.45;
  cursor: default;
}

.all {
  float: inline-end;
  height: 24px;
  margin-inline-start: 6px;
}

.asks {
  color: var(--ink);
  font-weight: 700;
}

.urgent span {
  border-bottom: 2px solid var(--ink);
}

.close {
  min-height: 0;
}

.close .name {
  display: flex;
  gap: 8px;
  align-items: baseline;
  padding: 12px 16px;
}

.close .code,
.closest .code {
  flex: none;
  font-size: 15px;
  line-height: inherit;
}

.close .title {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.close .cell::before {
  top: 9px;
}

.close .hangs {
  gap: 0;
  padding: 6px 2px 3px;
  font-size: 11px;
}

.closest {
  grid-template-columns: 92px repeat(var(--weeks), minmax(0, 1fr));
  min-height: 0;
}

.closest .name {
  padding: 0 4px 0 12px;
  line-height: 24px;
  white-space: nowrap;
}

.closest .cell::before {
  top: 5px;
}

.closest .hangs {
  min-width: 26px;
  padding: 3px 2px;
}

.closest .asks {
  box-shadow: inset 0 -2px 0 var(--ink);
}

.due :deep(.body) {
  opacity: 1;
}
</style>
