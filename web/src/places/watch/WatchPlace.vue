<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed, defineAsyncComponent, ref, watch, watchEffect } from 'vue'
import { useThrottleFn } from '@vueuse/core'
import { useI18n } from 'vue-i18n'
import { Problem } from '../../api/client'
import { useSaidIn } from '../../api/chat'
import { useAskedIn } from '../../api/toAll'
import { keys, useWatch } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import LecturePlayer from '../../parts/LecturePlayer.vue'
import { timecode } from '../../parts/time'
import { nameTab } from '../../router'
import CaptureNotice from './CaptureNotice.vue'
import ClosedDoor from './ClosedDoor.vue'
import LiveBehind from './LiveBehind.vue'
import ReadingLine from './ReadingLine.vue'
import WatchHead from './WatchHead.vue'
import WatchSide from './WatchSide.vue'
import WatchUnder from './WatchUnder.vue'
import { usePlayed } from '../common/played'
import { useChangesByItself } from './again'
import { useAlong } from './along'
import { withOthers } from './behind'
import { useCaptioning } from './captioning'
import { published, useBeginning } from './beginning'
import { useFollowing } from './following'
import { keyWords, useWatchKeys } from './keys'
import { useSilences } from './silences'

const PageSheet = defineAsyncComponent(() => import('../../parts/PageSheet.vue'))
const KeyList = defineAsyncComponent(() => import('./KeyList.vue'))
const AskedIn = defineAsyncComponent(() => import('./AskedIn.vue'))
const AskMoment = defineAsyncComponent(() => import('./AskMoment.vue'))

const props = defineProps<{ recording: string }>()
const { t } = useI18n()
const client = useQueryClient()
const at = ref(0)
/** What plays here, for whoever publishes another meanwhile. */
const playing = ref<{ edition?: string; at?: number }>({})
/** For those who teach it: as it was captured, and not as it would be published. */
const uncut = ref(false)
const page = useWatch(
  () => props.recording,
  () => (uncut.value ? { ...playing.value, uncut: true } : playing.value),
)
watch(uncut, () => void page.refetch())
/** What goes on live changes by itself when nothing more comes: then it is asked for again. */
useChangesByItself(
  () => page.data.value && ([page.dataUpdatedAt.value, page.data.value.ask_again_ms] as const),
  () => void page.refetch(),
)
/** How often what was over went on after all: what plays is begun anew then. */
const goneOn = ref(0)
watch(
  () => page.data.value?.phase,
  (now, was) => {
    if (was === 'over' && now && now !== 'over') goneOn.value++
  },
)
const { language, cues, onPicture, size, place, caption } = useCaptioning(
  () => props.recording,
  () => page.data.value,
  () => at.value,
)
const kept = [
  () => props.recording,
  () => page.data.value?.edition ?? '',
  uncut,
  () => page.data.value?.live === false && (!!page.data.value.account || page.data.value.as_staff),
] as const
/** What was said while it was captured, and asked of it since. */
const said = useSaidIn(...kept)
/** The questions that were put to all while it was captured. */
const asked = useAskedIn(...kept)
const player = ref<InstanceType<typeof LecturePlayer>>()

const closed = computed(() => {
  const e = page.error.value
  return e instanceof Problem && (e.status === 403 || e.status === 404) ? e : undefined
})
const { from, word: begins } = useBeginning(() => page.data.value)
const played = usePlayed(
  () => {
    const p = page.data.value
    // Who follows live has what they follow as it is said; who is behind has what plays for them.
    const counts = p && p.id === props.recording && (!p.live || (player.value?.behind ?? 0) > withOthers)
    return counts ? { recording: p.id, edition: p.edition } : undefined
  },
  { kept: () => void client.invalidateQueries({ queryKey: keys.catchUp }), refused: closing },
)

function time(_: number, now: number) {
  at.value = now
  const edition = published(page.data.value)
  if (edition) playing.value = { edition, at: Math.round(now) }
  played.follow(now, player.value?.rate)
  if (player.value?.playing) silent.pass(now)
}

const silent = useSilences(
  () => page.data.value?.silences ?? [],
  (to) => player.value?.seekKept(to),
  played.over,
)
const { along, nextMissed, toChapter } = useAlong(
  () => page.data.value,
  () => at.value,
  () => played.now.value,
  (ms) => player.value?.seekKept(ms),
)
const help = ref(false)

/** closing asks again what is there when what plays is no longer open: a right can end while one watches. */
function closing(e: unknown) {
  if (e instanceof Problem && (e.status === 403 || e.status === 404)) gone()
}

useWatchKeys({
  toggle: () => void player.value?.toggle(),
  step: (ms) => player.value?.seekKept(at.value + ms),
  faster: (by) => player.value?.faster(by),
  full: () => player.value?.full(),
  small: () => player.value?.small(),
  chapter: toChapter,
  captions: () => (onPicture.value = !onPicture.value),
  arrange: () => player.value?.arrange(),
  swap: () => player.value?.swap(),
  missed: () => nextMissed.value && player.value?.seekKept(nextMissed.value.start),
  help: () => (help.value = !help.value),
})

// When the lecture under way ends, what was captured can be watched from its beginning.
watch(
  () => props.recording,
  () => (playing.value = {}),
)
/** How much comes over the line, in the way that is chosen. */
const onLine = computed(() => player.value?.bytes ?? page.data.value?.bytes ?? 0)

/** gone: what plays is no longer there, so what is there now is asked for; not again and again. */
const gone = useThrottleFn(() => void page.refetch(), 5000)

const { inHall } = useFollowing(
  () => (page.data.value?.live ? page.data.value.lecture_id : undefined),
  () => at.value,
  closing,
)
watchEffect(() => nameTab(page.data.value?.title ?? ''))
</script>

<template>
  <CaptureNotice v-if="closed?.kind === 'notice'" :problem="closed" @seen="page.refetch()" />
  <ClosedDoor v-else-if="closed" :problem="closed" :recording="recording" />
  <FaultNote v-else-if="page.error.value && !page.data.value" :error="page.error.value" again @again="page.refetch()" />
  <article v-else-if="page.data.value">
    <WatchHead v-model:uncut="uncut" :page="page.data.value" />
    <div class="with-side watch">
      <div>
        <LecturePlayer
          :key="`${page.data.value.id} ${uncut} ${goneOn}`"
          ref="player"
          :media="page.data.value.media"
          :edition="page.data.value.edition"
          :live="page.data.value.live"
          :over="page.data.value.phase === 'over'"
          :kept="page.data.value.kept.length > 0 ? page.data.value.kept : undefined"
          :pictures="page.data.value.video"
          :second="page.data.value.second_video"
          :sizes="{
            whole: page.data.value.bytes,
            small: page.data.value.small_bytes,
            sound: page.data.value.audio_bytes,
          }"
          :from="from"
          :gain="page.data.value.gain?.db"
          :led="page.data.value.led"
          :label="page.data.value.title"
          :caption="caption"
          :caption-size="size"
          :caption-place="onPicture ? place : 'below'"
          :along="along"
          @time="time"
          @rested="played.tell"
          @sought="played.elsewhere"
          @ended="played.tell(at)"
          @gone="gone"
        />
        <ReadingLine
          v-model:on-picture="onPicture"
          v-model:size="size"
          v-model:place="place"
          v-model:skips="silent.skips.value"
          :language="language || page.data.value.language"
          :missed="nextMissed?.start"
          :captioned="cues.length > 0"
          :languages="page.data.value.languages"
          :saves="silent.offered.value ? silent.saves.value : 0"
          @update:language="(l) => (language = l)"
          @missed="nextMissed && player?.seekKept(nextMissed.start)"
          @keys="help = true"
        />
        <AskMoment
          v-if="!page.data.value.live && page.data.value.account"
          :recording="recording"
          :edition="page.data.value.edition"
          :lecture="page.data.value.lecture_id"
          :at="at"
        />
        <LiveBehind
          v-if="page.data.value.live"
          v-model:in-hall="inHall"
          :over="page.data.value.phase === 'over'"
          :player="player"
        />
        <p v-else-if="from > 0" class="soft small" role="status">
          {{ t(begins, { at: timecode(from) }) }}
          <el-button link @click="player?.seekKept(0)">{{ t('watch.from_start') }}</el-button>
        </p>
        <AskedIn
          v-if="asked.data.value && asked.data.value.questions.length > 0"
          :page="page.data.value"
          :asked="asked.data.value"
          :at="at"
          @seek="(ms) => player?.seekKept(ms)"
        />
        <WatchUnder
          :page="page.data.value"
          :at="at"
          :language="language"
          :printed="cues.length > 0"
          :on-line="onLine"
          @seek="(ms) => player?.seekKept(ms)"
        />
      </div>
      <PageSheet v-if="help" open :title="t('watch.keys.title')" @close="help = false"
        ><KeyList :keys="keyWords"
      /></PageSheet>
      <WatchSide
        v-if="page.data.value.live || page.data.value.notes || cues.length > 0"
        :page="page.data.value"
        :cues="cues"
        :said="page.data.value.live ? undefined : said.data.value"
        :language="language || page.data.value.language"
        :at="at"
        :uncut="uncut"
        @seek="(ms) => player?.seekKept(ms)"
      />
    </div>
  </article>
</template>

<style scoped>
.watch {
  --side: 320px;
  margin-top: 10px;
}

.watch > :first-child:last-child {
  grid-column: 1 / -1;
  max-width: min(1040px, max(560px, calc((100vh - 270px) * 16 / 9)));
}

/* Printed are its names and its words. */
@media print {
  .watch {
    display: block;
  }

  .watch > :first-child {
    display: none;
  }
}
</style>
