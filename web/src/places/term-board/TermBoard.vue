<script setup lang="ts">
import { useWindowVirtualizer } from '@tanstack/vue-virtual'
import { computed, ref, watchEffect, type ComponentPublicInstance } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { useBoard } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import { nameTab } from '../../router'
import BoardRow from './BoardRow.vue'
import LectureSheet from './LectureSheet.vue'
import NeedLine from './NeedLine.vue'

const { t } = useI18n()
const route = useRoute()
const router = useRouter()
const board = useBoard()
const mineOnly = ref(false)

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
const rows = computed(() => (board.data.value?.courses ?? []).filter((c) => c.mine || !mineOnly.value))
/** A college has hundreds of courses: only the rows on the screen are there. */
const list = ref<HTMLElement>()
const window = useWindowVirtualizer(
  computed(() => ({
    count: rows.value.length,
    estimateSize: () => 98,
    overscan: 6,
    scrollMargin: list.value?.offsetTop ?? 0,
    getItemKey: (n: number) => rows.value[n]!.id,
  })),
)
const measure = (x: Element | ComponentPublicInstance | null) => {
  if (x instanceof HTMLElement) window.value.measureElement(x)
}
const mixed = computed(() => {
  const mine = board.data.value?.courses.filter((c) => c.mine).length ?? 0
  return mine > 0 && mine < (board.data.value?.courses.length ?? 0)
})
const lecture = computed(() => (typeof route.query.lecture === 'string' ? route.query.lecture : ''))

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
  <section v-if="board.data.value" :aria-label="t('place.board')">
    <div class="top">
      <h1>{{ heading }}</h1>
      <el-checkbox v-if="mixed" v-model="mineOnly" class="mine">{{ t('board.mine') }}</el-checkbox>
    </div>
    <NeedLine :board="board.data.value" @show="show" />
    <p v-if="rows.length === 0" class="page">{{ t('board.empty') }}</p>
    <div v-else ref="list" class="board" role="list" :style="{ height: `${window.getTotalSize()}px` }">
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
        :style="{ transform: `translateY(${r.start - window.options.scrollMargin}px)` }"
      >
        <BoardRow
          :course="rows[r.index]!"
          :weeks="board.data.value.weeks"
          :now="board.data.value.monday"
          :chosen="week?.monday ?? ''"
          :zone="board.data.value.zone"
          @show="show"
        />
      </div>
    </div>
    <LectureSheet :lecture="lecture" @close="show(undefined)" />
  </section>
</template>

<style scoped>
.top {
  display: flex;
  align-items: baseline;
  justify-content: space-between;
}

.mine {
  color: var(--ink-2);
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
  left: 0;
  right: 0;
}
</style>
