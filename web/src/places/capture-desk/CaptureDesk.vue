<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed, nextTick, onMounted, onScopeDispose, ref, shallowRef, watchEffect } from 'vue'
import { useI18n } from 'vue-i18n'
import { keys, useLecture } from '../../api/queries'
import AtDoor from '../common/AtDoor.vue'
import EndCapture from '../common/EndCapture.vue'
import EndClass from '../common/EndClass.vue'
import { useUnsent } from '../../parts/unsent'
import FaultNote from '../../parts/FaultNote.vue'
import FileDrop from '../common/FileDrop.vue'
import { collegeNow } from '../../parts/clock'
import { clockText, dateText, timecode } from '../../parts/time'
import { nameTab } from '../../router'
import CheckList from './CheckList.vue'
import { useChecks } from './checks'
import DeskChat from './DeskChat.vue'
import DeskCompany from './DeskCompany.vue'
import DeskChoices from './DeskChoices.vue'
import DeskControl, { type Phase } from './DeskControl.vue'
import DeskMarkers, { type Flag } from './DeskMarkers.vue'
import DeskPictures from './DeskPictures.vue'
import { useDeskKeys } from './keys'
import { Recorder, type Capturing } from './recorder'
import { useReturned } from './returned'
import { useSources } from './sources'
import { useForgottenStop } from './stopping'

const props = defineProps<{ lecture: string }>()
const { t } = useI18n()
const client = useQueryClient()
const sheet = useLecture(() => props.lecture)
const sources = useSources()
const videos = { screen: ref<HTMLVideoElement>(), camera: ref<HTMLVideoElement>() }
const recorder = shallowRef<Recorder>()
const now = ref<Capturing>()
const phase = ref<Phase>('ready')
const startFault = ref(false)
const flags = ref<Flag[]>([])
const side = ref<HTMLElement>()

const capturing = computed(() => phase.value === 'capturing')
const { checks, silentFor, speak } = useChecks(sources, videos, () => (capturing.value ? now.value : undefined))
const { returned, goneOn } = useReturned(() => props.lecture)

const course = computed(() => sheet.data.value?.course)
const ahead = computed(() => sheet.data.value?.lecture.ahead ?? false)
/** Before the doorway opens nobody is there yet, unless one says so. */
const chosenAlone = ref<boolean>()
const alone = computed({
  get: () =>
    ahead.value ||
    (chosenAlone.value ?? (sheet.data.value ? collegeNow() < Date.parse(sheet.data.value.opens_at) : false)),
  set: (yes) => (chosenAlone.value = yes),
})
const ends = computed(() =>
  sheet.data.value && !alone.value ? Date.parse(sheet.data.value.lecture.ends_at) : undefined,
)
const why = computed(() =>
  alone.value || !sheet.data.value
    ? t('ahead.forgotten_why')
    : t('desk.forgotten_why', { at: clockText(sheet.data.value.lecture.ends_at, sheet.data.value.zone) }),
)
const notice = computed(() => (alone.value ? t('ahead.alone_help') : sheet.data.value?.notice || t('desk.told')))
const other = computed(
  () => phase.value === 'ready' && sheet.data.value?.recordings.find((r) => !r.stopped && r.source !== 'file'),
)
const canStart = computed(() => sources.sound.value !== undefined || sources.kind.value !== 'none')
const line = computed(() => sheet.data.value?.recordings.find((r) => r.id === now.value?.progress.recording))
const outcome = computed(() => {
  if (line.value?.state === 'failed') return t(`fault.${line.value.fault}`)
  if (line.value && !line.value.stopped) return t('desk.stored_other')
  return line.value?.state === 'ready' ? t('desk.watchable') : t('desk.stored')
})
const muted = computed(() =>
  sources.sound.value && (sources.muted.value || sources.strengths.microphone === 0) ? t('desk.muted') : '',
)
const sign = computed(() => (capturing.value ? t(now.value?.paused ? 'desk.paused' : 'desk.on') : ''))

function start() {
  if (phase.value !== 'ready' || !canStart.value) return
  startFault.value = false
  try {
    recorder.value = new Recorder(sources.captured(), { lecture: props.lecture, alone: alone.value })
    flags.value = []
    goneOn()
    phase.value = 'capturing'
    speak()
    tick()
  } catch {
    startFault.value = true
  }
}

async function stop() {
  if (!capturing.value) return
  phase.value = 'sending'
  const all = await recorder.value?.stop()
  tick()
  await client.invalidateQueries({ queryKey: keys.lecture(props.lecture) })
  if (all) phase.value = 'stored'
  void client.invalidateQueries({ queryKey: keys.board })
}

function pause() {
  if (!capturing.value) return
  if (now.value?.paused) recorder.value?.resume()
  else recorder.value?.pause()
  tick()
}

/** mark flags the moment at once; its word can be written while the lecture goes on. */
function mark() {
  const m = capturing.value ? recorder.value?.mark() : undefined
  if (!m) return
  flags.value.unshift({ total: m.total, word: '', write: m.write })
  void nextTick(() => side.value?.querySelector<HTMLInputElement>('.flags input')?.focus())
}

function again() {
  recorder.value = undefined
  sources.over()
  now.value = undefined
  phase.value = 'ready'
}

const forgotten = useForgottenStop({
  ends: () => ends.value,
  running: () => capturing.value,
  silent: () => silentFor.value,
  stop: () => void stop(),
})
const { left } = forgotten
useDeskKeys({ start, stop: () => void stop(), pause, mark })

const busy = () => phase.value === 'capturing' || phase.value === 'sending'
const tick = () => (now.value = recorder.value?.state())
const timer = window.setInterval(() => busy() && tick(), 250)
useUnsent(busy, () => t('desk.leave'))

const icon = document.getElementById('icon')
watchEffect(() => {
  const on = capturing.value && now.value
  const mark = left.value === undefined ? (now.value?.paused ? 'Ⅱ' : '●') : '!'
  nameTab(on ? `${mark} ${timecode(on.elapsed)} ${course.value?.code ?? ''}` : t('place.capture'))
  icon?.setAttribute('href', on ? '/lantern-capturing.svg' : '/lantern.svg')
})
onMounted(() => void sources.begin())
onScopeDispose(() => {
  window.clearInterval(timer)
  icon?.setAttribute('href', '/lantern.svg')
  if (busy()) void recorder.value?.stop()
})
</script>

<template>
  <FaultNote v-if="sheet.error.value && !sheet.data.value" :error="sheet.error.value" again @again="sheet.refetch()" />
  <section v-if="sheet.data.value">
    <p class="soft over">
      {{ course?.code }} {{ course?.title }} · {{ t('sheet.week', { n: sheet.data.value.week }) }} ·
      <template v-if="ahead">{{ t('date.ahead') }}</template>
      <template v-else>
        <template v-if="!sheet.data.value.lecture.today">
          {{ dateText(sheet.data.value.lecture.starts_at, sheet.data.value.zone) }},
        </template>
        {{ clockText(sheet.data.value.lecture.starts_at, sheet.data.value.zone) }}
        <template v-if="sheet.data.value.lecture.hall"> · {{ sheet.data.value.lecture.hall }}</template>
      </template>
    </p>
    <h1>{{ sheet.data.value.lecture.topic || sheet.data.value.suggested_title }}</h1>
    <div class="with-side desk">
      <div>
        <DeskPictures :sources="sources" :videos="videos" :sign="sign" :muted="muted" />
        <DeskChoices v-if="phase === 'ready' || capturing" :sources="sources" :capturing="capturing" />
      </div>
      <div ref="side" class="side">
        <div v-if="phase === 'ready' && returned.length > 0" class="note" role="status">
          <b>{{ t('desk.returned', { at: clockText(returned[0]!.began, sheet.data.value.zone) }) }}</b>
          {{ t(returned[0]!.left ? 'desk.returned_left' : 'desk.returned_saved') }}
        </div>
        <div v-if="other" class="note">
          {{ t(sheet.data.value.lecture.phase === 'broken' ? 'desk.other_broken' : 'desk.other') }}
          <EndCapture :recording="other.id" :lecture="lecture" :text="t('desk.end_other')" />
        </div>
        <DeskCompany v-if="phase === 'ready'" v-model="alone" :ahead="ahead" :week="sheet.data.value.week" />
        <DeskControl
          :phase="phase"
          :now="now"
          :can-start="canStart"
          :left="left"
          :why="why"
          :outcome="outcome"
          :notice="notice"
          @start="start"
          @stop="stop"
          @pause="pause"
          @mark="mark"
          @again="again"
          @go-on="forgotten.goOn"
        />
        <p v-if="phase === 'stored' && line && !line.stopped">
          <EndCapture :recording="line.id" :lecture="lecture" :text="t('desk.end_other')" />
        </p>
        <EndClass
          v-if="!alone && phase !== 'ready'"
          class="end"
          :lecture="lecture"
          :zone="sheet.data.value.zone"
          :on="capturing"
          :running="capturing"
          @due="stop"
        />
        <AtDoor
          v-if="!alone && (capturing || phase === 'ready')"
          :lecture="lecture"
          :zone="sheet.data.value.zone"
          :course="sheet.data.value.course.id"
        />
        <DeskChat
          v-if="!alone && capturing"
          :lecture="lecture"
          :zone="sheet.data.value.zone"
          :course="sheet.data.value.course.id"
        />
        <FaultNote v-if="startFault" :error="undefined" />
        <DeskMarkers v-if="phase !== 'ready'" :flags="flags" />
        <CheckList v-if="phase !== 'stored'" :checks="checks" />
        <details v-if="phase === 'ready'" class="file">
          <summary>{{ t('desk.file') }}</summary>
          <FileDrop :lecture="lecture" />
        </details>
      </div>
    </div>
  </section>
</template>

<style scoped>
.desk {
  --side: 370px;
  margin-top: 14px;
}

.end {
  margin-bottom: 12px;
}

.note {
  margin-bottom: 12px;
  padding: 10px 12px;
  border-inline-start: 4px solid var(--kelp);
  background: var(--kelp-soft);
}

.file {
  margin-top: 18px;
}

.file summary {
  min-height: 24px;
  margin-bottom: 8px;
  color: var(--kelp);
  cursor: pointer;
}
</style>
