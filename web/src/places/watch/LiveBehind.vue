<script setup lang="ts">
/**
 * How far behind the others someone is who follows a lecture live, and how soon they are with them; who came late goes
 * to its beginning with one press. And that one sits in the hall.
 */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import type LecturePlayer from '../../parts/LecturePlayer.vue'
import { durationText } from '../../parts/time'
import { withOthers } from './behind'

const inHall = defineModel<boolean>('inHall', { required: true })
const props = defineProps<{
  /** It has ended: there is no now to come to. */
  over: boolean
  player?: InstanceType<typeof LecturePlayer>
}>()
const { t } = useI18n()
/** At what speed what went by is made up for. */
const fast = 2
/** How far behind now one is, in milliseconds. */
const behind = computed(() => props.player?.behind ?? 0)
const rate = computed(() => props.player?.rate ?? 1)
const far = computed(() => behind.value > withOthers)
const sentence = computed(() => {
  if (!far.value) return ''
  const by = durationText(behind.value)
  return rate.value > 1
    ? t('live.behind_until', { behind: by, left: durationText(behind.value / (rate.value - 1)) })
    : t('live.behind', { behind: by })
})
</script>

<template>
  <p v-if="!over" class="small line">
    <el-checkbox v-model="inHall">{{ t('watch.in_hall') }}</el-checkbox>
    <span v-if="far" class="push">{{ sentence }}</span>
    <el-button v-if="far && rate <= 1" link size="small" @click="player?.catchUp()">{{
      t('live.go_on_fast', { left: durationText(behind / (fast - 1)) })
    }}</el-button>
    <el-button
      v-else-if="!far && (player?.length ?? 0) > withOthers"
      link
      size="small"
      class="push"
      @click="player?.catchUp(0)"
      >{{ t('live.from_start') }}</el-button
    >
  </p>
</template>

<style scoped>
.line {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  align-items: center;
}
</style>
