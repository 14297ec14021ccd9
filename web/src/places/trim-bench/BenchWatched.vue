<script setup lang="ts">
/** How students have caught up with a recording that is lit, and what of it is watched again and again. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useWatchedCurve } from '../../api/caughtup'
import { Problem } from '../../api/client'
import BarCurve from '../../parts/BarCurve.vue'
import FaultNote from '../../parts/FaultNote.vue'
import { timecode } from '../../parts/time'
import { useCaughtUpText } from '../common/caughtUp'

const props = defineProps<{ course: string; recording: string; lit: boolean }>()
defineEmits<{ seek: [ms: number] }>()
const { t } = useI18n()
const text = useCaughtUpText()
const page = useWatchedCurve(
  () => props.course,
  () => props.recording,
  () => props.lit,
)
const it = computed(() => page.data.value)
const bin = computed(() => it.value?.bin_ms ?? 60_000)
const bars = (of: number[]) => of.map((n, i) => ({ at: i * bin.value, n }))
const watched = computed(() => bars(it.value?.people ?? []))
const again = computed(() => bars(it.value?.again ?? []))
const some = (of: { n: number }[]) => of.some((b) => b.n > 0)
/** What was watched again most, in its order: stretches of at least half as often as the most. */
const most = computed(() => {
  const least = Math.max(...again.value.map((b) => b.n)) / 2
  const runs: { at: number; until: number; n: number }[] = []
  for (const b of again.value) {
    if (b.n === 0 || b.n < least) continue
    const last = runs.at(-1)
    if (last?.until === b.at) Object.assign(last, { until: b.at + bin.value, n: Math.max(last.n, b.n) })
    else runs.push({ at: b.at, until: b.at + bin.value, n: b.n })
  }
  return runs
    .sort((a, b) => b.n - a.n)
    .slice(0, 4)
    .sort((a, b) => a.at - b.at)
})
/** Nobody can watch it: then there is nothing to tell. */
const nobody = computed(() => page.error.value instanceof Problem && page.error.value.status === 404)
</script>

<template>
  <section v-if="lit && !nobody" class="watched">
    <h2>{{ t('caught_up.name') }}</h2>
    <FaultNote v-if="page.error.value && !it" :error="page.error.value" again @again="page.refetch()" />
    <template v-if="it">
      <p>{{ text(it) }}</p>
      <template v-if="some(watched)">
        <p class="soft small">{{ t('caught_up.watched') }}</p>
        <BarCurve :bars="watched" :from="0" :bin="bin" :until="it.length_ms" :label="t('caught_up.watched')" />
      </template>
      <template v-if="some(again)">
        <p class="soft small">{{ t('caught_up.again') }}</p>
        <BarCurve :bars="again" :from="0" :bin="bin" :until="it.length_ms" :label="t('caught_up.again')" />
        <p class="small">
          {{ t('caught_up.most') }}
          <el-button v-for="b in most" :key="b.at" link type="primary" @click="$emit('seek', b.at)">{{
            t(
              'caught_up.times',
              { from: timecode(b.at), until: timecode(b.until), n: Math.round(b.n) },
              Math.round(b.n),
            )
          }}</el-button>
        </p>
      </template>
      <p v-if="!some(watched)" class="soft small">{{ t('caught_up.nothing') }}</p>
    </template>
  </section>
</template>

<style scoped>
.watched {
  margin-top: 18px;
}

.watched p {
  margin: 4px 0;
}

.el-button {
  margin-inline-start: 12px;
}
</style>
