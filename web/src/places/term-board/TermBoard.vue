<script setup lang="ts">
import { useWindowVirtualizer } from '@tanstack/vue-virtual'
import { type ComponentPublicInstance, computed, defineAsyncComponent, ref, watch, watchEffect } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { useBoard } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import { nameTab } from '../../router'
import BoardRow from './BoardRow.vue'
import { useChoosing } from './choosing'
import { useDensity, useFilter } from './filter'
import NeedLine from './NeedLine.vue'

/** The lanterns come first, and what chooses among them after them. */
const BoardTools = defineAsyncComponent(() => import('./BoardTools.vue'))
/** It is loaded when a lecture is opened. */
const LectureSheet = defineAsyncComponent(() => import('./LectureSheet.vue'))
/** And this when lanterns are chosen. */
const ChosenBar = defineAsyncComponent(() => import('./ChosenBar.vue'))
const { t } = useI18n()
const route = useRoute()
/** So many courses can be taken in without choosing among them. */
const few = 8
const router = useRouter()
const board = useBoard()
const filter = useFilter(board.data)
const density = useDensity()
const rows = filter.rows
const choosing = useChoosing(rows)
const choose = computed({
  get: () => choosing.on.value,
  set: (on) => (on ? (choosing.on.value = true) : choosing.end()),
})
const opened = ref(false)

const week = computed(() => {
  const b = board.data.value
  return b?.weeks.find((w) => w.monday === (route.query.week ?? b.monday))
})
const heading = computed(() => {
  const b = board.data.value
  if (!b) return ''
  if (!week.value) return b.term
  return week.value.number
    ? t('board.week', { term: b.term, n: week.value.number })
    : t('board.break', { term: b.term, name: week.value.break })
})
/** In two columns, each with its own weeks, where they stand closest. */
const lanes = computed(() => (density.value === 'closest' ? 2 : 1))
const heights = { roomy: 98, close: 48, closest: 25 }
/** A college has hundreds of courses: only the rows on the screen are there. */
const list = ref<HTMLElement>()
const window = useWindowVirtualizer(
  computed(() => ({
    count: rows.value.length,
    estimateSize: () => heights[density.value],
    lanes: lanes.value,
    overscan: 6,
    scrollMargin: list.value?.offsetTop ?? 0,
    getItemKey: (n: number) => rows.value[n]!.id,
  })),
)
watch(density, () => window.value.measure())
const measure = (x: Element | ComponentPublicInstance | null) => {
  if (x instanceof HTMLElement) window.value.measureElement(x)
}
const lecture = computed(() => (typeof route.query.lecture === 'string' ? route.query.lecture : ''))
watchEffect(() => (opened.value ||= !!lecture.value))

function show(id: string | undefined) {
  void router.push({ name: 'board', query: { ...route.query, lecture: id } })
}

watchEffect(() => nameTab(heading.value))
</script>

<template>
  <FaultNote
    v-if="board.error.value && !board.data.value"
    :error="board.error.value"
    :missing="t('board.no_term')"
    again
    @again="board.refetch()"
  />
  <section v-if="board.data.value" :class="{ tight: density === 'closest' }" :aria-label="t('place.board')">
    <h1>{{ heading }}</h1>
    <NeedLine :board="board.data.value" @show="show" />
    <div class="tools">
      <BoardTools
        v-model="density"
        v-model:choosing="choose"
        :filter="filter"
        :many="board.data.value.courses.length > few || filter.chosen.state !== ''"
      />
    </div>
    <p v-if="board.data.value.courses.length === 0" class="page">{{ t('board.empty') }}</p>
    <p v-else-if="rows.length === 0" class="page">
      {{ t('board.none') }} <el-button link @click="filter.clear">{{ t('board.clear') }}</el-button>
    </p>
    <div v-else-if="choose" class="heads small" :class="density" role="group" :aria-label="t('board.choose_week')">
      <div v-for="lane in lanes" :key="lane" :style="{ '--weeks': board.data.value.weeks.length }">
        <span />
        <template v-for="w in board.data.value.weeks" :key="w.monday">
          <el-button
            v-if="w.number"
            link
            :aria-label="t('board.all_week', { week: w.number })"
            @click="choosing.week(w.monday)"
            >{{ w.number }}</el-button
          >
          <span v-else />
        </template>
      </div>
    </div>
    <div v-else-if="density === 'closest'" class="heads closest soft small" aria-hidden="true">
      <div v-for="lane in lanes" :key="lane" :style="{ '--weeks': board.data.value.weeks.length }">
        <span /><span v-for="w in board.data.value.weeks" :key="w.monday">{{ w.number || '–' }}</span>
      </div>
    </div>
    <div
      v-if="rows.length > 0"
      ref="list"
      class="board"
      :class="density"
      role="list"
      :style="{ height: `${window.getTotalSize()}px` }"
      @keydown.esc="choosing.end"
    >
      <!-- What moves is the frame of a row, so that the row itself need not be drawn anew. -->
      <div
        v-for="r in window.getVirtualItems()"
        :key="String(r.key)"
        :ref="measure"
        class="placed"
        role="listitem"
        :data-index="r.index"
        :aria-setsize="rows.length"
        :aria-posinset="r.index + 1"
        :class="`lane${r.lane}`"
        :style="{ transform: `translateY(${r.start - window.options.scrollMargin}px)` }"
      >
        <BoardRow
          :course="rows[r.index]!"
          :weeks="board.data.value.weeks"
          :now="board.data.value.monday"
          :chosen="week?.monday ?? ''"
          :zone="board.data.value.zone"
          :density="density"
          :choosing="choosing"
          @show="show"
        />
      </div>
    </div>
    <ChosenBar
      v-if="choose"
      :lectures="choosing.list.value"
      :full="choosing.full.value"
      :zone="board.data.value.zone"
      @end="choosing.end"
    />
    <LectureSheet v-if="opened" :lecture="lecture" @close="show(undefined)" />
  </section>
</template>

<style scoped>
.tools {
  min-height: 40px;
}

.tight h1 {
  font-size: 19px;
}

.tight :deep(.hand),
.tight :deep(.night) {
  margin-bottom: 2px;
  font-size: 14px;
}

.tight .tools {
  min-height: 34px;
}

.heads {
  display: flex;
  padding: 0 1px;
}

.heads > div {
  display: grid;
  flex: 1;
  grid-template-columns: 250px repeat(var(--weeks), minmax(0, 1fr));
  text-align: center;
}

.heads.closest > div {
  grid-template-columns: 92px repeat(var(--weeks), minmax(0, 1fr));
}

.heads .el-button.el-button.el-button {
  width: 100%;
  margin: 0;
  text-align: center;
}

.board {
  position: relative;
  box-sizing: content-box;
  background: var(--shell);
  border: 1px solid var(--rule);
  border-radius: 6px;
}

.placed {
  position: absolute;
  top: 0;
  inset-inline: 0;
}

.closest .placed {
  inset-inline-end: 50%;
  border-inline-end: 1px solid var(--rule-strong);
}

.closest .lane1 {
  inset-inline-end: 0;
  inset-inline-start: 50%;
  border-inline-end: 0;
}
</style>
