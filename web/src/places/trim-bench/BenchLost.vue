<script setup lang="ts">
/** How many said that they were lost, along the recording; where it was most leads there. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useLostOf } from '../../api/chat'
import BarCurve from '../../parts/BarCurve.vue'
import { timecode } from '../../parts/time'

const props = defineProps<{ recording: string; length: number }>()
defineEmits<{ seek: [ms: number] }>()
const { t } = useI18n()
const minute = 60_000
const lost = useLostOf(() => props.recording)
const all = computed(() => lost.data.value?.moments ?? [])
/** Each is about the middle of its minute. */
const bars = computed(() => all.value.map((m) => ({ at: Math.max(0, m.at - minute / 2), n: m.people })))
/** Where most were, the first of them, up to three, in their order. */
const most = computed(() =>
  [...all.value]
    .sort((a, b) => b.people - a.people || a.at - b.at)
    .slice(0, 3)
    .sort((a, b) => a.at - b.at),
)
</script>

<template>
  <section v-if="all.length > 0" class="lost">
    <h2>{{ t('bench.lost') }}</h2>
    <BarCurve :bars="bars" :from="0" :bin="minute" :until="length" :label="t('class_page.lost_curve')" />
    <p class="small">
      {{ t('bench.lost_most') }}
      <el-button v-for="m in most" :key="m.at" link type="primary" @click="$emit('seek', m.at)">{{
        t('bench.lost_at', { at: timecode(m.at), n: m.people }, m.people)
      }}</el-button>
    </p>
  </section>
</template>

<style scoped>
.lost {
  margin-top: 18px;
}

p {
  margin: 4px 0;
}

.el-button {
  margin-inline-start: 12px;
}
</style>
