<script setup lang="ts">
/** How many said in each minute that they are lost: a curve of the lecture up to now, and one sentence. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useLost } from '../../api/chat'
import { collegeNow } from '../../parts/clock'
import { clockText } from '../../parts/time'

const props = defineProps<{ lecture: string; zone: string; from: string; until: string }>()
const { t } = useI18n()
const lost = useLost(() => props.lecture)
const minute = 60_000
const all = computed(() => (lost.data.value?.minutes ?? []).map((m) => ({ at: Date.parse(m.minute), n: m.people })))
const begins = computed(() => Math.min(Date.parse(props.from), all.value[0]?.at ?? Infinity))
const ends = computed(() =>
  Math.max(Date.parse(props.until), (all.value.at(-1)?.at ?? 0) + minute, begins.value + 10 * minute),
)
const most = computed(() => all.value.reduce((a, b) => (b.n > a.n ? b : a), { at: 0, n: 0 }))
const bars = computed(() =>
  all.value.map((m) => ({
    key: m.at,
    x: (100 * (m.at - begins.value)) / (ends.value - begins.value),
    w: Math.max(0.6, (100 * minute) / (ends.value - begins.value)),
    h: (28 * m.n) / Math.max(3, most.value.n),
  })),
)
const sentence = computed(() => {
  if (!lost.data.value) return ''
  if (all.value.length === 0) return t('class_page.lost_none')
  const n = all.value.filter((m) => m.at > collegeNow() - 6 * minute).reduce((sum, m) => sum + m.n, 0)
  if (n > 0) return t('class_page.lost_now', { n }, n)
  return t('class_page.lost_now_none', {
    n: most.value.n,
    at: clockText(new Date(most.value.at).toISOString(), props.zone),
  })
})
</script>

<template>
  <section>
    <h2>{{ t('class_page.lost') }}</h2>
    <p class="small">{{ sentence }}</p>
    <svg
      v-if="bars.length > 0"
      viewBox="0 0 100 30"
      preserveAspectRatio="none"
      role="img"
      :aria-label="t('class_page.lost_curve')"
    >
      <rect x="0" y="29.4" width="100" height="0.6" class="ground" />
      <rect v-for="b in bars" :key="b.key" :x="b.x" :y="29.4 - b.h" :width="b.w" :height="b.h" class="bar" />
    </svg>
  </section>
</template>

<style scoped>
svg {
  width: 100%;
  height: 44px;
}

.ground {
  fill: var(--rule-strong);
}

.bar {
  fill: var(--kelp);
}

p {
  margin: 4px 0;
}
</style>
