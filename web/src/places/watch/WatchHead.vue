<script setup lang="ts">
/** What is watched: its title, where it belongs, that it is not lit, or how the lecture under way stands. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { dateText, dayAndClock } from '../../parts/time'

const props = defineProps<{ page: Schemas['Watch'] }>()
const uncut = defineModel<boolean>('uncut', { required: true })
const { t } = useI18n()
const lecturers = computed(() => props.page.lecturers.join(', ') || t('live.someone'))
/** What stands over its title: who comes by a link is not told of its course. */
const over = computed(() => {
  const p = props.page
  const course = `${p.course.code} ${p.course.title}`.trim()
  const week = p.week ? t('sheet.week', { n: p.week }) : ''
  const day = p.starts_at ? dateText(p.starts_at, p.zone) : ''
  return [course, week, day, p.lecturers.join(', ')].filter(Boolean).join(' · ')
})
/** What stands above a recording that is not lit. */
const band = computed(() => {
  const p = props.page
  if (!p.unlit) return ''
  return t(uncut.value ? 'watch.unlit_uncut' : p.kept.length > 0 ? 'watch.unlit' : 'watch.unlit_whole')
})
</script>

<template>
  <p class="soft over">{{ over }}</p>
  <h1>{{ page.title }}</h1>
  <div v-if="band" class="note" role="status">
    {{ band }}
    <el-button v-if="uncut || page.kept.length > 0" link type="primary" @click="uncut = !uncut">{{
      t(uncut ? 'watch.see_cut' : 'watch.see_uncut')
    }}</el-button>
  </div>
  <p
    v-if="page.live"
    class="phase"
    :class="{ tally: page.phase === 'runs', stands: page.phase !== 'runs' }"
    role="status"
  >
    {{ t(`live.${page.phase || 'runs'}`, { who: lecturers }) }}
    <template v-if="page.phase === 'over' && page.opens_at">{{
      t('live.over_opens', { at: dayAndClock(page.opens_at, page.zone) })
    }}</template>
  </p>
</template>

<style scoped>
.phase {
  margin: 4px 0 0;
}

.stands {
  padding: 8px 12px;
  border-inline-start: 4px solid var(--rule-strong);
  background: var(--shell);
}

.note {
  margin: 8px 0;
  padding: 8px 12px;
  border-inline-start: 4px solid var(--kelp);
  background: var(--kelp-soft);
}

@media print {
  .note,
  .phase {
    display: none;
  }
}
</style>
