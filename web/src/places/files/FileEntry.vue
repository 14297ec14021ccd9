<script setup lang="ts">
/** A file that came, or comes: how far it is, of which lecture it is, and what can be done about it. */
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { bringBack, putAway, usePlaceFile } from '../../api/files'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'
import { dayAndClock, megabytes, timecode } from '../../parts/time'
import LectureChoice from './LectureChoice.vue'
import ProposedLectures from './ProposedLectures.vue'

const props = defineProps<{ file: Schemas['FileLine']; zone: string; sent?: number }>()
const emit = defineEmits<{ away: [name: string, back: () => Promise<unknown>]; stop: [] }>()
const { t } = useI18n()
const place = usePlaceFile()
const choosing = ref(false)
const { problem, act } = useForm()

const f = computed(() => props.file)
const coming = computed(() => f.value.state === 'sending' || f.value.state === 'quiet')
const percent = computed(() => {
  const [done, all] = coming.value
    ? [Math.max(props.sent ?? 0, f.value.stored_bytes), f.value.size_bytes]
    : [f.value.packed_ms, f.value.expected_ms]
  return all > 0 ? Math.min(100, Math.floor((done / all) * 100)) : 0
})
const minutes = computed(() => (f.value.left_ms === undefined ? 0 : Math.ceil(f.value.left_ms / 60_000)))
const about = computed(() =>
  [
    f.value.size_bytes >= 50_000 ? t('files.size', { n: megabytes(f.value.size_bytes) }) : '',
    f.value.length_ms ? timecode(f.value.length_ms) : '',
    f.value.made_at ? t('files.made', { at: dayAndClock(f.value.made_at, props.zone) }) : '',
    f.value.mine ? '' : t('files.by', { name: f.value.by }),
  ]
    .filter(Boolean)
    .join(' · '),
)

async function choose(lecture: string) {
  if (await act(() => place.mutateAsync({ track: f.value.track_id, lecture }))) choosing.value = false
}

async function away() {
  if (await act(() => putAway(f.value.track_id))) emit('away', f.value.file_name, () => bringBack(f.value.track_id))
}
</script>

<template>
  <article :aria-label="f.file_name">
    <div class="head">
      <div class="name">
        <b>{{ f.file_name || t('files.no_name') }}</b>
        <span class="soft small">{{ about }}</span>
      </div>
      <p v-if="f.lecture" class="to">
        <router-link v-if="f.recording_id" :to="{ name: 'trim-bench', params: { recording: f.recording_id } }">{{
          f.title
        }}</router-link>
        <span class="soft small">
          {{ f.lecture.course }} ·
          {{ f.lecture.ahead ? t('date.ahead') : dayAndClock(f.lecture.starts_at, zone) }}
          <template v-if="f.placed_by === 'itself'"> · {{ t(`files.went_${f.reading}`) }}</template>
        </span>
      </p>
      <div class="acts">
        <el-button
          v-if="f.lecture && !f.stays"
          link
          :aria-expanded="choosing"
          :aria-label="t('files.change', { name: f.file_name })"
          @click="choosing = !choosing"
        >
          {{ t('change') }}
        </el-button>
        <el-button v-if="f.state === 'sending' && sent !== undefined" link @click="emit('stop')">
          {{ t('file.stop') }}
        </el-button>
        <el-button
          v-else-if="!f.lecture && f.state !== 'sending'"
          link
          :aria-label="t('files.away', { name: f.file_name })"
          @click="away"
        >
          {{ t('files.away_short') }}
        </el-button>
      </div>
    </div>
    <template v-if="coming || f.state === 'copying'">
      <el-progress :percentage="percent" :aria-label="t('file.progress', { name: f.file_name })" />
      <p class="soft small" role="status">
        <template v-if="f.state === 'quiet'">{{
          t('files.quiet', { at: dayAndClock(f.arrived_at, zone), done: megabytes(f.stored_bytes) })
        }}</template>
        <template v-else-if="coming">{{
          t('file.sending', { done: megabytes(Math.max(sent ?? 0, f.stored_bytes)), all: megabytes(f.size_bytes) })
        }}</template>
        <template v-else>
          {{ t('files.copying', { done: timecode(f.packed_ms), all: timecode(f.expected_ms) }) }}
          {{ f.left_ms !== undefined ? t('files.left', { n: minutes }, minutes) : '' }}
        </template>
      </p>
    </template>
    <p v-else-if="f.state === 'faulty'" class="wrong">{{ t(`fault.${f.fault}`) }}</p>
    <p v-else-if="f.state === 'looked_into'" class="soft small" role="status">{{ t('files.looked_into') }}</p>
    <template v-if="!f.lecture && f.state !== 'faulty'">
      <p v-if="f.twice" class="soft small">{{ t('files.twice') }}</p>
      <ProposedLectures
        v-if="f.proposals.length"
        :file="f"
        :zone="zone"
        :busy="place.isPending.value"
        @choose="choose"
      />
      <p v-else-if="f.state === 'waits'" class="soft small">{{ t('files.no_proposal') }}</p>
      <el-button v-if="!choosing" link @click="choosing = true">{{ t('files.other') }}</el-button>
    </template>
    <LectureChoice
      v-if="choosing"
      :course="f.lecture?.course_id"
      :lecture="f.lecture?.id"
      :busy="place.isPending.value"
      @choose="choose"
      @leave="choosing = false"
    />
    <FaultNote v-if="problem" :error="problem" />
  </article>
</template>

<style scoped>
article {
  padding: 12px 20px;
}

.head {
  display: grid;
  grid-template-columns: minmax(0, 5fr) minmax(0, 6fr) auto;
  align-items: baseline;
  gap: 0 20px;
}

.name b {
  overflow-wrap: anywhere;
}

.name span,
.to span {
  display: block;
}

.to {
  margin: 0;
}

.acts {
  grid-column: 3;
  text-align: end;
}

.wrong {
  margin: 6px 0;
  padding-inline-start: 8px;
  border-inline-start: 3px solid var(--tally);
}

@media (max-width: 800px) {
  .head {
    grid-template-columns: minmax(0, 1fr) auto;
  }

  .to {
    grid-row: 2;
  }

  .acts {
    grid-column: 2;
  }
}
</style>
