<script setup lang="ts">
/** Which of all recordings are shown. */
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Course, Wanted } from '../../api/all'
import ChoiceList from '../../parts/ChoiceList.vue'
import { bytesText } from '../../parts/time'

const props = defineProps<{ wanted: Wanted; courses: Course[]; weeks: number }>()
const emit = defineEmits<{ change: [change: Wanted] }>()
const { t } = useI18n()

const typed = ref(props.wanted.words ?? '')
const settle = useDebounceFn(() => emit('change', { words: typed.value.trim() }), 250)
watch(
  () => props.wanted.words,
  (now) => {
    if ((now ?? '') !== typed.value.trim()) typed.value = now ?? ''
  },
)

const minute = 60_000
const steps = [
  'trim',
  'title',
  'rule',
  'playlist',
  'light',
  'publish',
  'words',
  'tell',
  'again',
  'stop',
  'wait',
] as const
const courses = computed(() => [
  { value: '', text: t('all.courses') },
  ...props.courses.map((c) => ({
    value: c.id,
    text: props.wanted.all_terms ? `${c.code} ${c.title}, ${c.term}` : `${c.code} ${c.title}`,
  })),
])
const weeks = computed(() => [
  { value: 0, text: t('all.weeks') },
  ...Array.from({ length: props.weeks }, (_, n) => ({ value: n + 1, text: t('sheet.week', { n: n + 1 }) })),
])
const waits = computed(() => [
  { value: '', text: t('all.waits_any') },
  { value: 'hand', text: t('all.hand') },
  { value: 'nothing', text: t('all.nothing') },
  ...steps.map((s) => ({ value: s, text: t('all.waits_step', { step: t(`step.${s}`) }) })),
])
const lights = computed(() => [
  { value: '', text: t('all.light_any') },
  ...(['dark', 'part_lit', 'lit'] as const).map((s) => ({ value: s, text: t(`all.light_${s}`) })),
])
/** From how long to how long, in minutes; 0 for no such end. */
const spans = { any: [0, 0], u5: [0, 5], u30: [0, 30], f30: [30, 0], f60: [60, 0], f90: [90, 0], f180: [180, 0] }
type SpanName = keyof typeof spans
const lengths = computed(() =>
  (Object.keys(spans) as SpanName[]).map((value) => {
    const [from, to] = spans[value] as [number, number]
    const text = from ? t('all.longer', { n: from }) : to ? t('all.shorter', { n: to }) : t('all.length_any')
    return { value, text }
  }),
)
const length = computed(
  () =>
    (Object.keys(spans) as SpanName[]).find(
      (name) =>
        spans[name]![0]! * minute === (props.wanted.longer_ms ?? 0) &&
        spans[name]![1]! * minute === (props.wanted.shorter_ms ?? 0),
    ) ?? 'any',
)
const setLength = (name: SpanName) =>
  emit('change', { longer_ms: spans[name]![0]! * minute, shorter_ms: spans[name]![1]! * minute })
const sizes = computed(() => [
  { value: 0, text: t('all.size_any') },
  ...[100e6, 500e6, 1e9, 5e9].map((value) => ({ value, text: t('all.larger', { size: bytesText(value) }) })),
])
const only = ['untitled', 'uncaptioned', 'unseen', 'all_terms'] as const
</script>

<template>
  <div class="filters small" role="search" :aria-label="t('all.table')">
    <el-input
      v-model="typed"
      class="compact words"
      type="search"
      :aria-label="t('all.find')"
      :placeholder="t('all.find')"
      @input="settle"
    />
    <ChoiceList
      bare
      :label="t('all.course')"
      :options="courses"
      :model-value="wanted.course ?? ''"
      @update:model-value="(course) => emit('change', { course })"
    />
    <ChoiceList
      bare
      class="short"
      :label="t('all.week')"
      :options="weeks"
      :model-value="wanted.week ?? 0"
      @update:model-value="(week) => emit('change', { week })"
    />
    <ChoiceList
      bare
      :label="t('all.waits')"
      :options="waits"
      :model-value="wanted.waits ?? ''"
      @update:model-value="(w) => emit('change', { waits: w as Wanted['waits'] })"
    />
    <ChoiceList
      bare
      class="short"
      :label="t('all.light')"
      :options="lights"
      :model-value="wanted.light ?? ''"
      @update:model-value="(l) => emit('change', { light: l as Wanted['light'] })"
    />
    <ChoiceList
      bare
      class="short"
      :label="t('all.length')"
      :options="lengths"
      :model-value="length"
      @update:model-value="setLength"
    />
    <ChoiceList
      bare
      class="short"
      :label="t('all.size')"
      :options="sizes"
      :model-value="wanted.larger ?? 0"
      @update:model-value="(larger) => emit('change', { larger })"
    />
    <el-checkbox
      v-for="o in only"
      :key="o"
      :model-value="Boolean(wanted[o])"
      @update:model-value="(on) => emit('change', { [o]: Boolean(on) })"
      >{{ t(`all.${o}`) }}</el-checkbox
    >
  </div>
</template>

<style scoped>
.filters {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 14px;
  align-items: center;
}

.words.words.words {
  width: 220px;
}

.short :deep(.el-select) {
  width: 132px;
}
</style>
