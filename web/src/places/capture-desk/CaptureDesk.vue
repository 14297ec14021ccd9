<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed, onMounted, onScopeDispose, ref, shallowRef, watchEffect } from 'vue'
import { useI18n } from 'vue-i18n'
import { onBeforeRouteLeave } from 'vue-router'
import { endCapture, keys, useLecture } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import FileDrop from '../../parts/FileDrop.vue'
import LevelMeter from '../../parts/LevelMeter.vue'
import SafeLine from '../../parts/SafeLine.vue'
import { clockText, timecode } from '../../parts/time'
import { nameTab } from '../../router'
import CheckList from './CheckList.vue'
import { useChecks } from './checks'
import { Recorder, type Capturing } from './recorder'
import { useSources } from './sources'

const props = defineProps<{ lecture: string }>()
const { t } = useI18n()
const client = useQueryClient()
const sheet = useLecture(() => props.lecture)
const sources = useSources()
const video = ref<HTMLVideoElement>()
const recorder = shallowRef<Recorder>()
const now = ref<Capturing>()
const phase = ref<'ready' | 'capturing' | 'sending' | 'stored'>('ready')
const startFault = ref(false)
const endFault = ref<unknown>()

const checks = useChecks({
  level: sources.level,
  soundFault: sources.soundFault,
  hasSound: () => sources.sound.value !== undefined,
  picture: sources.kind,
  pictureFault: sources.pictureFault,
  pictureEnded: sources.pictureEnded,
  video,
  reached: () => (phase.value === 'capturing' ? now.value?.progress.reached : undefined),
})

const course = computed(() => sheet.data.value?.course)
const other = computed(
  () => phase.value === 'ready' && sheet.data.value?.recordings.find((r) => !r.stopped && r.source === 'desk'),
)
const canStart = computed(() => sources.sound.value !== undefined || sources.pictures.value !== undefined)
const recording = computed(() => now.value?.progress.recording ?? '')
const line = computed(() => sheet.data.value?.recordings.find((r) => r.id === recording.value))
const watchable = computed(() => line.value?.state === 'ready')

watchEffect(() => {
  if (video.value) video.value.srcObject = sources.pictures.value ?? null
})

function start() {
  startFault.value = false
  try {
    recorder.value = new Recorder(sources.all(), props.lecture)
    phase.value = 'capturing'
    tick()
  } catch {
    startFault.value = true
  }
}

async function stop() {
  phase.value = 'sending'
  const all = await recorder.value?.stop()
  tick()
  if (all) phase.value = 'stored'
  void client.invalidateQueries({ queryKey: keys.lecture(props.lecture) })
  void client.invalidateQueries({ queryKey: keys.board })
}

function again() {
  recorder.value = undefined
  now.value = undefined
  phase.value = 'ready'
}

async function endOther() {
  if (!other.value) return
  endFault.value = undefined
  try {
    await endCapture(other.value.id)
  } catch (e) {
    endFault.value = e
  }
  void client.invalidateQueries({ queryKey: keys.lecture(props.lecture) })
}

const tick = () => (now.value = recorder.value?.state())
const timer = window.setInterval(() => {
  if (phase.value === 'capturing' || phase.value === 'sending') tick()
}, 250)

const busy = () => phase.value === 'capturing' || phase.value === 'sending'
const warn = (e: BeforeUnloadEvent) => {
  if (busy()) e.preventDefault()
}
window.addEventListener('beforeunload', warn)
onBeforeRouteLeave(() => !busy() || window.confirm(t('desk.leave')))

const icon = document.getElementById('icon')
watchEffect(() => {
  const on = phase.value === 'capturing'
  nameTab(on && now.value ? `● ${timecode(now.value.elapsed)} ${course.value?.code ?? ''}` : t('place.capture'))
  icon?.setAttribute('href', on ? '/lantern-capturing.svg' : '/lantern.svg')
})
onMounted(() => void sources.begin())
onScopeDispose(() => {
  window.clearInterval(timer)
  window.removeEventListener('beforeunload', warn)
  icon?.setAttribute('href', '/lantern.svg')
  if (busy()) void recorder.value?.stop()
})
</script>

<template>
  <FaultNote v-if="sheet.error.value && !sheet.data.value" :error="sheet.error.value" again @again="sheet.refetch()" />
  <section v-if="sheet.data.value">
    <p class="soft over">
      {{ course?.code }} {{ course?.title }} · {{ t('sheet.week', { n: sheet.data.value.week }) }} ·
      {{ clockText(sheet.data.value.lecture.starts_at, sheet.data.value.zone) }} · {{ sheet.data.value.lecture.hall }}
    </p>
    <h1>{{ sheet.data.value.lecture.topic || sheet.data.value.suggested_title }}</h1>
    <div class="desk">
      <div>
        <div class="picture">
          <video
            v-show="sources.pictures.value"
            ref="video"
            autoplay
            muted
            playsinline
            :aria-label="t('desk.preview')"
          />
          <p v-if="!sources.pictures.value" class="nothing">{{ t('desk.no_picture') }}</p>
          <p v-if="phase === 'capturing'" class="on"><span class="dot" /> {{ t('desk.on') }}</p>
        </div>
        <div v-if="phase === 'ready'" class="choices">
          <div role="group" :aria-label="t('desk.picture')" class="pictures">
            <span>{{ t('desk.picture') }}</span>
            <button
              v-for="k in ['camera', 'screen', 'none'] as const"
              :key="k"
              class="act quiet"
              type="button"
              :aria-pressed="sources.kind.value === k"
              @click="sources.openPicture(k)"
            >
              {{ t(`desk.${k}`) }}
            </button>
          </div>
          <div class="microphone">
            <label for="microphone">{{ t('desk.microphone') }}</label>
            <select
              v-if="sources.microphones.value.length > 0"
              id="microphone"
              :value="sources.microphone.value"
              @change="sources.openMicrophone(($event.target as HTMLSelectElement).value)"
            >
              <option v-for="(m, n) in sources.microphones.value" :key="m.deviceId" :value="m.deviceId">
                {{ m.label || t('desk.microphone_n', { n: n + 1 }) }}
              </option>
            </select>
            <button v-else class="act quiet" type="button" @click="sources.openMicrophone()">
              {{ t('desk.open_microphone') }}
            </button>
          </div>
        </div>
        <div class="level">
          <LevelMeter :rms="sources.level.value.rms" :peak="sources.level.value.peak" />
        </div>
      </div>
      <div class="side">
        <div v-if="phase === 'ready'" class="control">
          <p v-if="other" class="tally">
            {{ t('desk.other') }}
            <button class="word" type="button" @click="endOther">{{ t('desk.end_other') }}</button>
          </p>
          <FaultNote v-if="endFault" :error="endFault" />
          <button class="act large" type="button" :disabled="!canStart" @click="start">{{ t('desk.start') }}</button>
          <p class="soft small">{{ t('desk.told') }}</p>
          <FaultNote v-if="startFault" :error="undefined" />
        </div>
        <div v-else-if="now" class="control">
          <p class="elapsed mono" :class="{ tally: phase === 'capturing' }">{{ timecode(now.elapsed) }}</p>
          <SafeLine
            :elapsed="now.elapsed"
            :safe="phase === 'stored' ? now.elapsed : now.progress.safe"
            :reached="now.progress.reached"
          />
          <p v-if="now.silent" class="tally" role="alert">{{ t('desk.silent') }}</p>
          <p v-if="recorder?.keepFault" class="tally" role="alert">{{ t('desk.not_kept') }}</p>
          <FaultNote v-if="now.progress.fault" :error="now.progress.fault" />
          <button v-if="phase === 'capturing'" class="act large stop" type="button" @click="stop">
            {{ t('desk.stop') }}
          </button>
          <p v-else-if="phase === 'sending'" role="status">{{ t('desk.sending') }}</p>
          <template v-else>
            <p role="status">
              <template v-if="line?.state === 'failed'">{{ t(`fault.${line.fault}`) }}</template>
              <template v-else>{{ watchable ? t('desk.watchable') : t('desk.stored') }}</template>
            </p>
            <p>
              <router-link v-if="recording" class="act" :to="{ name: 'trim-bench', params: { recording } }">{{
                t('desk.to_bench')
              }}</router-link>
            </p>
            <button class="word" type="button" @click="again">{{ t('desk.again') }}</button>
          </template>
        </div>
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
.over {
  margin: 0;
}

.desk {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 370px;
  gap: 28px;
  margin-top: 14px;
}

.picture {
  position: relative;
  display: grid;
  aspect-ratio: 16 / 9;
  max-height: 60vh;
  place-items: center;
  overflow: hidden;
  border-radius: 4px;
  background: var(--well);
  color: #fff;
}

video {
  width: 100%;
  height: 100%;
  object-fit: contain;
}

.nothing {
  margin: 0;
  font: 18px var(--serif);
}

.on {
  position: absolute;
  top: 12px;
  left: 12px;
  display: flex;
  align-items: center;
  gap: 8px;
  margin: 0;
  padding: 4px 12px;
  border-radius: 3px;
  background: #fff;
  color: #b3361f;
  font-weight: 700;
}

.dot {
  width: 11px;
  height: 11px;
  border-radius: 50%;
  background: #b3361f;
}

.choices {
  display: flex;
  flex-wrap: wrap;
  gap: 12px 30px;
  margin-top: 14px;
}

.pictures,
.microphone {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
}

.act[aria-pressed='true'] {
  border-color: var(--kelp);
  box-shadow: inset 0 -3px 0 var(--kelp);
}

select {
  max-width: 260px;
  min-height: 36px;
  padding: 4px 8px;
  border: 1px solid var(--edge);
  border-radius: 4px;
  background: var(--shell);
  color: var(--ink);
  font: inherit;
}

.level {
  margin-top: 14px;
}

.large {
  width: 100%;
  min-height: 60px;
  font-size: 19px;
}

.stop {
  margin-top: 10px;
  background: var(--tally);
  color: var(--shell);
}

.stop:hover {
  background: var(--tally);
  filter: brightness(0.9);
}

.control {
  margin-bottom: 14px;
}

.control .small {
  margin: 8px 0 0;
}

.elapsed {
  margin: 0 0 8px;
  font-size: 40px;
  line-height: 1;
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

@media (max-width: 900px) {
  .desk {
    grid-template-columns: 1fr;
  }
}
</style>
