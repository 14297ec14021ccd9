<script setup lang="ts">
/** How many said in each minute that they are lost: a curve of the lecture up to now, and one sentence. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useLost } from '../../api/chat'
import BarCurve from '../../parts/BarCurve.vue'
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
    <BarCurve
      v-if="all.length > 0"
      :bars="all"
      :from="begins"
      :bin="minute"
      :until="ends"
      :label="t('class_page.lost_curve')"
    />
  </section>
</template>

<style scoped>
p {
  margin: 4px 0;
}
</style>
