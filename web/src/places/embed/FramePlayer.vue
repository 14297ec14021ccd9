<script setup lang="ts">
/** A recording as a page of another site shows it: what plays, and the way to the rest. */
import { useStorage } from '@vueuse/core'
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useWatch } from '../../api/queries'
import LecturePlayer from '../../parts/LecturePlayer.vue'
import { nameTab } from '../../router'
import { usePlayed } from '../common/played'
import FrameDoor from './FrameDoor.vue'

const props = defineProps<{ recording: string }>()
const { t } = useI18n()
const page = useWatch(
  () => props.recording,
  () => ({}),
)
const it = computed(() => page.data.value)
const address = computed(() => `/watch/${props.recording}`)
const at = ref(0)
const player = ref<InstanceType<typeof LecturePlayer>>()
const onPicture = useStorage('late-lantern-captions', false)
const caption = computed(() =>
  onPicture.value ? (it.value?.cues.find((c) => c.start <= at.value && at.value < c.end)?.text ?? '') : '',
)
const played = usePlayed(
  () => (it.value && !it.value.live ? { recording: props.recording, edition: it.value.edition } : undefined),
  { refused: () => void page.refetch() },
)

function time(_: number, now: number) {
  at.value = now
  played.follow(now, player.value?.rate)
}
nameTab('')
</script>

<template>
  <FrameDoor v-if="!it && page.error.value" :error="page.error.value" :address="address" @again="page.refetch()" />
  <article v-else-if="it">
    <header>
      <h1 :title="it.title">{{ it.title }}</h1>
      <el-checkbox v-if="it.cues.length > 0" v-model="onPicture">{{ t('watch.captions') }}</el-checkbox>
      <a :href="address" target="_blank" rel="noopener">{{ t('embed.open') }}</a>
    </header>
    <LecturePlayer
      :key="it.id"
      ref="player"
      fills
      :media="it.media"
      :edition="it.edition"
      :live="it.live"
      :over="it.phase === 'over'"
      :pictures="it.video"
      :second="it.second_video"
      :sizes="{ whole: it.bytes, small: it.small_bytes, sound: it.audio_bytes }"
      :from="it.resume_ms"
      :gain="it.gain?.db"
      :led="it.led"
      :label="it.title"
      :caption="caption"
      @time="time"
      @rested="played.tell"
      @sought="played.elsewhere"
      @ended="played.tell(at)"
      @gone="page.refetch()"
    />
  </article>
</template>

<style scoped>
article {
  display: grid;
  grid-template-rows: auto 1fr;
  height: 100vh;
  padding: 6px 10px;
  background: var(--shell);
}

header {
  display: flex;
  gap: 0 16px;
  align-items: center;
  min-width: 0;
  margin-bottom: 4px;
}

h1 {
  flex: 1;
  min-width: 0;
  margin: 0;
  overflow: hidden;
  font-size: 16px;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
