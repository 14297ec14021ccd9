<script setup lang="ts">
/** Recordings, a line each; of thousands only those on the screen are drawn. */
import { useElementBounding, useWindowScroll, useWindowSize } from '@vueuse/core'
import type { Column as TableColumn } from 'element-plus'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Course, Row } from '../../api/all'
import SortHead from '../../parts/SortHead.vue'
import type { Sorted } from '../../parts/sorting'
import RecordingCell, { type CellName } from './RecordingCell.vue'
import type { Chosen } from './chosen'

const props = defineProps<{ rows: Row[]; courses: Course[]; zone: string; chosen: Chosen; below: number }>()
const sorted = defineModel<Sorted>('sorted', { required: true })
const { t } = useI18n()

const box = ref<HTMLElement>()
const { width, top } = useElementBounding(box)
const { height } = useWindowSize()
const { y } = useWindowScroll()
const line = 46
/** The title takes what the others leave, and no less than can be read: then the table is scrolled sideways. */
const widths = { choose: 40, course: 96, date: 132, next: 96, can: 136, length: 78, size: 84, captions: 78, seen: 78 }
const fixed = Object.values(widths).reduce((a, b) => a + b, 0)
/** Where not all of them are seen at once the title comes first. */
const order = computed(() =>
  width.value < fixed
    ? (['choose', 'title', 'next', 'can', 'course', 'date', 'length', 'size', 'captions', 'seen'] as const)
    : (['choose', 'course', 'date', 'title', 'next', 'can', 'length', 'size', 'captions', 'seen'] as const),
)
const columns = computed<TableColumn<Row>[]>(() =>
  order.value.map((key) => ({
    key,
    dataKey: key,
    width: key === 'title' ? Math.max(240, width.value - fixed - 8) : widths[key],
  })),
)
/** As high as its rows, or as the window has room for; a bar below it stays free. */
const tall = computed(() =>
  Math.max(
    6 * line,
    Math.min(height.value - top.value - y.value - 20 - props.below, (props.rows.length + 1) * line + 2),
  ),
)
const by: Record<string, string> = {
  course: 'course',
  date: 'date',
  title: 'title',
  next: 'waits',
  can: 'light',
  length: 'length',
  size: 'size',
  seen: 'seen',
}
const every = computed(() => props.rows.length > 0 && props.rows.every((r) => props.chosen.has(r)))
const shift = ref(false)
const choose = (r: Row, on: boolean) => props.chosen.one(r, on, shift.value)
</script>

<template>
  <div ref="box" class="all-recordings" @click.capture="shift = $event.shiftKey">
    <el-table-v2
      v-if="width > 0"
      :columns="columns"
      :data="rows"
      :width="width"
      :height="tall"
      :row-height="line"
      :header-height="line"
      row-key="recording_id"
      :row-class="({ rowData: r }: { rowData: Row }) => (chosen.has(r) ? 'chosen-row' : '')"
      fixed
    >
      <template #header-cell="{ column }">
        <el-checkbox v-if="column.key === 'choose'" :model-value="every" @change="chosen.all(Boolean($event))"
          ><span class="away">{{ t('all.choose_all') }}</span></el-checkbox
        >
        <SortHead
          v-else-if="by[column.key as string]"
          v-model="sorted"
          :by="by[column.key as string]!"
          :text="t(`all.${String(column.key)}`)"
        />
        <span v-else>{{ t(`all.${String(column.key)}`) }}</span>
      </template>
      <template #cell="{ column, rowData: r }">
        <RecordingCell
          :column="column.key as CellName"
          :row="r as Row"
          :course="courses[r.course]"
          :zone="zone"
          :chosen="chosen.has(r as Row)"
          @choose="choose"
        />
      </template>
    </el-table-v2>
  </div>
</template>
