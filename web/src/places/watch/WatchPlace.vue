<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed, defineAsyncComponent, onScopeDispose, ref, watch, watchEffect } from 'vue'
import { useStorage, useThrottleFn } from '@vueuse/core'
import { useI18n } from 'vue-i18n'
import { Problem } from '../../api/client'
import { useWatchCaptions } from '../../api/captions'
import { keepPlace, keys, sayPresent, useWatch } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import LecturePlayer from '../../parts/LecturePlayer.vue'
import { useLanguageNames } from '../../parts/language'
import { dateText, megabytes, timecode } from '../../parts/time'
import { nameTab } from '../../router'
import CaptureNotice from './CaptureNotice.vue'
import ClosedDoor from './ClosedDoor.vue'
import MomentRow from './MomentRow.vue'
import TakeList from './TakeList.vue'
import TranscriptSide from './TranscriptSide.vue'
import { useChangesByItself } from './again'
import { useWatchKeys } from './keys'

/** Few choose among languages, and what one chooses with is heavy. */
const ChoiceList = defineAsyncComponent(() => import('../../parts/ChoiceList.vue'))

const props = defineProps<{ recording: string }>()
const { t } = useI18n()
const client = useQueryClient()
/** In which language its captions are read; '' for that of the course. */
const language = ref('')
const at = ref(0)
const nobody = '00000000-0000-0000-0000-000000000000'
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
const lecturers = computed(() => page.data.value?.lecturers.join(', ') || t('live.someone'))
/** What stands over its title: who comes by a link is not told of its course. */
const over = computed(() => {
  const p = page.data.value
  if (!p) return ''
  const course = `${p.course.code} ${p.course.title}`.trim()
  const week = p.week ? t('sheet.week', { n: p.week }) : ''
  const day = p.starts_at ? dateText(p.starts_at, p.zone) : ''
  return [course, week, day, p.lecturers.join(', ')].filter(Boolean).join(' · ')
})
/** What stands above a recording that is not lit. */
const band = computed(() => {
  const p = page.data.value
  if (!p?.unlit) return ''
  return t(uncut.value ? 'watch.unlit_uncut' : p.kept.length > 0 ? 'watch.unlit' : 'watch.unlit_whole')
})
const translated = useWatchCaptions(() => props.recording, language)
const cues = computed(() => (language.value && translated.data.value?.cues) || (page.data.value?.cues ?? []))
const nameOf = useLanguageNames()
const player = ref<InstanceType<typeof LecturePlayer>>()
let kept = -1
/** Who sits in the hall is there without anything that plays. */
const inHall = ref(false)

const closed = computed(() => {
  const e = page.error.value
  return e instanceof Problem && (e.status === 403 || e.status === 404) ? e : undefined
})
/** Whether captions stand on the picture is remembered in this browser. */
const onPicture = useStorage('late-lantern-captions', false)
const caption = computed(() => {
  if (!onPicture.value) return ''
  const c = cues.value.find((x) => x.start <= at.value && at.value < x.end)
  return c ? (c.speaker ? `${c.speaker}: ${c.text}` : c.text) : ''
})
/** Which chapter plays now. */
const chapter = computed(() => (page.data.value?.chapters ?? []).findLastIndex((c) => c.at <= at.value + 100))
/** Another edition was published while one watched. */
const anew = ref(false)
/** Where it goes on; while one edition plays that stays as it was, whatever is asked again. */
const from = ref(0)
watch(
  () => [page.data.value?.id, page.data.value?.edition] as const,
  ([id, edition], before) => {
    const [wasOf, was] = before ?? []
    from.value = page.data.value?.resume_ms ?? 0
    anew.value = id === wasOf && Boolean(was) && was !== nobody && edition !== was
  },
  { immediate: true },
)

function time(_: number, now: number) {
  at.value = now
  const edition = page.data.value?.edition
  if (edition && edition !== nobody) playing.value = { edition, at: Math.round(now) }
  if (Math.abs(now - kept) > 5000) rest(now)
}

/** rest remembers where one stopped. */
function rest(now: number) {
  if (page.data.value?.live || (kept < 0 && now === 0) || now === kept) return
  kept = now
  void keepPlace(props.recording, page.data.value?.edition ?? nobody, now)
    .then(() => client.invalidateQueries({ queryKey: keys.catchUp }))
    .catch(closing) // the next one will do
}

/** closing asks again what is there when what plays is no longer open: a right can end while one watches. */
function closing(e: unknown) {
  if (e instanceof Problem && (e.status === 403 || e.status === 404)) gone()
}

useWatchKeys({
  toggle: () => void player.value?.toggle(),
  step: (ms) => player.value?.seekKept(at.value + ms),
  faster: (by) => player.value?.faster(by),
  full: () => player.value?.full(),
})

// When the lecture under way ends, what was captured can be watched from its beginning.
watch(
  () => props.recording,
  () => {
    kept = -1
    playing.value = {}
  },
)
/** How much comes over the line, in the way that is chosen. */
const onLine = computed(() => player.value?.bytes ?? page.data.value?.bytes ?? 0)

/** gone: what plays is no longer there, so what is there now is asked for; not again and again. */
const gone = useThrottleFn(() => void page.refetch(), 5000)

// Whoever follows a lecture live is there for as long as it plays here, or they sit in its hall.
let heardAt = 0
function present() {
  const p = page.data.value
  const moved = at.value !== heardAt
  heardAt = at.value
  // the next one will do
  if (p?.live && (moved || inHall.value)) void sayPresent(p.lecture_id, inHall.value).catch(closing)
}
const heartbeat = window.setInterval(present, 15_000)
watch(inHall, present)
watchEffect(() => nameTab(page.data.value?.title ?? ''))
onScopeDispose(() => {
  window.clearInterval(heartbeat)
  if (player.value) rest(at.value)
})
</script>

<template>
  <CaptureNotice v-if="closed?.kind === 'notice'" :problem="closed" @seen="page.refetch()" />
  <ClosedDoor v-else-if="closed" :problem="closed" :recording="recording" />
  <FaultNote v-else-if="page.error.value && !page.data.value" :error="page.error.value" again @again="page.refetch()" />
  <article v-else-if="page.data.value">
    <p class="soft over">{{ over }}</p>
    <h1>{{ page.data.value.title }}</h1>
    <div v-if="band" class="note" role="status">
      {{ band }}
      <el-button v-if="uncut || page.data.value.kept.length > 0" link type="primary" @click="uncut = !uncut">{{
        t(uncut ? 'watch.see_cut' : 'watch.see_uncut')
      }}</el-button>
    </div>
    <p
      v-if="page.data.value.live"
      class="phase"
      :class="{ tally: page.data.value.phase === 'runs', stands: page.data.value.phase !== 'runs' }"
      role="status"
    >
      {{ t(`live.${page.data.value.phase || 'runs'}`, { who: lecturers }) }}
    </p>
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
          @time="time"
          @rested="rest"
          @ended="rest(at)"
          @gone="gone"
        />
        <p v-if="cues.length > 0" class="small reading">
          <el-checkbox v-model="onPicture">{{ t('watch.captions') }}</el-checkbox>
          <ChoiceList
            v-if="page.data.value.languages.length > 1"
            :model-value="language || page.data.value.language"
            :label="t('watch.language')"
            :options="page.data.value.languages.map((l) => ({ value: l, text: nameOf(l) }))"
            @update:model-value="(l) => (language = l)"
          />
        </p>
        <template v-if="page.data.value.live">
          <p v-if="page.data.value.phase !== 'over'" class="small">
            <el-checkbox v-model="inHall">{{ t('watch.in_hall') }}</el-checkbox>
          </p>
        </template>
        <p v-else-if="from > 0" class="soft small" role="status">
          {{ t(anew ? 'watch.anew' : 'watch.resumed', { at: timecode(from) }) }}
          <el-button link @click="player?.seekKept(0)">{{ t('watch.from_start') }}</el-button>
        </p>
        <section v-if="page.data.value.chapters.length > 1" class="chapters" :aria-label="t('watch.chapters')">
          <h2>{{ t('watch.chapters') }}</h2>
          <ol class="plain">
            <li v-for="(c, n) in page.data.value.chapters" :key="c.at">
              <MomentRow :at="c.at" :now="n === chapter" @seek="player?.seekKept(c.at)">{{ c.title }}</MomentRow>
            </li>
          </ol>
        </section>
        <p v-if="page.data.value.description" class="said">{{ page.data.value.description }}</p>
        <p class="ways">
          <router-link
            v-if="page.data.value.next_recording"
            :to="{ name: 'watch', params: { recording: page.data.value.next_recording } }"
            >{{ t('watch.next') }}</router-link
          >
          <TakeList :page="page.data.value" :language="language" />
          <router-link v-if="page.data.value.as_staff" :to="{ name: 'trim-bench', params: { recording } }">{{
            t('watch.to_bench')
          }}</router-link>
          <span v-if="page.data.value.gain" class="soft small">{{
            t(page.data.value.gain.db < 0 ? 'watch.quieter' : 'watch.louder', {
              db: Math.abs(page.data.value.gain.db).toFixed(1),
            })
          }}</span>
          <span v-if="!page.data.value.live && onLine > 0" class="soft small">{{
            t('watch.size', { mb: megabytes(onLine) })
          }}</span>
        </p>
      </div>
      <TranscriptSide v-if="cues.length > 0" :cues="cues" :at="at" @seek="(ms) => player?.seekKept(ms)" />
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

.reading {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 20px;
  align-items: center;
  margin: 8px 0 0;
}

.chapters {
  margin-top: 14px;
}

.chapters ol {
  columns: 2 260px;
  margin-top: 4px;
}

.said {
  max-width: 70ch;
  margin-top: 14px;
  white-space: pre-line;
}

.ways {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 22px;
  align-items: baseline;
  margin-top: 12px;
}
</style>
