<script setup lang="ts">
/** The margin of a line: holes and markers, what is proposed, and what is struck, each where it begins. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import type { Stretch } from '../../parts/kept'
import { timecode } from '../../parts/time'

const props = defineProps<{
  line: Stretch
  holes: Stretch[]
  markers: Schemas['Marker'][]
  proposals: Schemas['ProposalMark'][]
  struck: Stretch[]
}>()
const emit = defineEmits<{
  seek: [ms: number]
  strike: [s: Stretch]
  restore: [s: Stretch]
  leave: [p: Schemas['ProposalMark']]
}>()
const { t } = useI18n()

const begins = (at: number) => at >= props.line.start && at < props.line.end
const here = computed(() => ({
  holes: props.holes.filter((h) => begins(h.start)),
  markers: props.markers.filter((m) => begins(m.at_ms)),
  open: props.proposals.filter((p) => !p.struck && begins(p.start)),
  struck: props.struck
    .filter((s) => begins(s.start))
    .map((s) => ({
      ...s,
      why: props.proposals.find((p) => p.struck && p.start < s.end && p.end > s.start)?.why ?? '',
    })),
}))
const name = (why: string) => (why ? t(`why.${why}`) : t('why.hand'))
</script>

<template>
  <ul class="margin plain">
    <li v-for="h in here.holes" :key="`h${h.start}`">
      {{ t('strip.hole') }} <b>{{ timecode(h.end - h.start) }}</b>
    </li>
    <li v-for="m in here.markers" :key="`m${m.at_ms}`">
      <el-button link class="marker" @click="emit('seek', m.at_ms)">
        {{ m.pause_ms ? t('strip.pause', { n: timecode(m.pause_ms) }) : m.word || t('strip.marker') }}
      </el-button>
    </li>
    <li v-for="s in here.struck" :key="`s${s.start}`">
      <s>{{ name(s.why) }}</s> <b>{{ timecode(s.end - s.start) }}</b>
      <el-button
        link
        :aria-label="t('strip.restore_it', { name: name(s.why), at: timecode(s.start) })"
        @click="emit('restore', s)"
      >
        {{ t('strip.restore') }}
      </el-button>
    </li>
    <li v-for="p in here.open" :key="`p${p.start}`" class="open">
      {{ name(p.why) }} <b>{{ timecode(p.end - p.start) }}</b>
      <span class="both">
        <el-button
          link
          :aria-label="t('strip.strike_it', { name: name(p.why), at: timecode(p.start) })"
          @click="emit('strike', p)"
        >
          {{ t('strip.strike') }}
        </el-button>
        <el-button
          link
          :aria-label="t('strip.leave_it', { name: name(p.why), at: timecode(p.start) })"
          @click="emit('leave', p)"
        >
          {{ t('strip.leave') }}
        </el-button>
      </span>
    </li>
  </ul>
</template>

<style scoped>
.margin {
  padding-top: 28px;
  font-size: 13px;
  line-height: 1.3;
}

.margin .el-button {
  margin-inline-start: 6px;
}

.both .el-button,
.margin .marker {
  margin: 0;
}

.margin li + li {
  margin-top: 3px;
}

.both {
  display: flex;
  gap: 10px;
}
</style>
