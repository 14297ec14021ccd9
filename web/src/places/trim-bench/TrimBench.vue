<script setup lang="ts">
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watchEffect } from 'vue'
import { useI18n } from 'vue-i18n'
import { setDeleted, useBench, useStrip } from '../../api/bench'
import { Problem, type Schemas } from '../../api/client'
import { keys } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import type { Stretch } from '../../parts/kept'
import LecturePlayer from '../../parts/LecturePlayer.vue'
import { clockText, dateText, dayAndClock } from '../../parts/time'
import { nameTab } from '../../router'
import BenchFiles from './BenchFiles.vue'
import BenchHeading from './BenchHeading.vue'
import BenchNotes from './BenchNotes.vue'
import BenchSearch from './BenchSearch.vue'
import BenchState from './BenchState.vue'
import BenchLost from './BenchLost.vue'
import BenchWatched from './BenchWatched.vue'
import BenchTools from './BenchTools.vue'
import ChaptersSheet from './ChaptersSheet.vue'
import { useEdges } from './edges'
import { useBenchKeys } from './keys'
import { useLeft } from './left'
import KeysSheet from './KeysSheet.vue'
import { decode } from './lines'
import { useMaking } from './making'
import NextStep from './NextStep.vue'
import { partAt, type Part } from './selecting'
import SplitSheet from './SplitSheet.vue'
import StripPage from './StripPage.vue'
import VersionsSheet from './VersionsSheet.vue'

const props = defineProps<{ recording: string }>()
const { t } = useI18n()
const client = useQueryClient()
const bench = useBench(() => props.recording)
const it = computed(() => bench.data.value)
const strip = useStrip(
  () => props.recording,
  () => it.value?.state === 'ready',
)
const player = ref<InstanceType<typeof LecturePlayer>>()
const position = ref(0)
const selection = ref<Stretch>()
const { left, leave } = useLeft(() => props.recording)
const help = ref(false)
const splitting = ref(false)
const comparing = ref(false)
const chaptering = ref(false)
/** A version of the cuts that is looked at beside what stands now. */
const looking = ref<Schemas['CutVersion']>()
const page = ref<InstanceType<typeof StripPage>>()
/** Where what is looked for is said, or stands. */
const hits = ref<Schemas['Hit'][]>([])
const search = ref<InstanceType<typeof BenchSearch>>()

const peaks = computed(() => (strip.data.value ? decode(strip.data.value.peaks) : new Uint8Array()))
const proposals = computed(() => (strip.data.value?.proposals ?? []).filter((p) => !left.value.includes(p.start)))
const open = computed(() => proposals.value.filter((p) => !p.struck))
const measuring = computed(() => strip.error.value instanceof Problem && strip.error.value.kind === 'measuring')

const { make, other, fault, act, busy } = useMaking(
  () => props.recording,
  () => it.value?.version,
  (c) => {
    if (c.do === 'strike' || c.do === 'restore') selection.value = undefined
  },
)

const { nudge, toSilence, hear } = useEdges(it, position, make, player)

async function strikeAll() {
  for (const p of open.value) if (!(await make({ do: 'strike', start: p.start, end: p.end }))) return
}

const strikeSelection = () => selection.value && void make({ do: 'strike', ...selection.value })

/** restore puts back what is chosen, or the struck stretch at the playhead. */
function restoreSelection() {
  const s = selection.value ?? it.value?.struck.find((x) => x.start <= position.value && position.value <= x.end)
  if (s) void make({ do: 'restore', start: s.start, end: s.end })
}

function select(what: Part, at = position.value) {
  const s = strip.data.value && it.value && partAt(strip.data.value, it.value.length_ms, what, at)
  if (s) selection.value = s
}

/** lead shows the second picture first in the selection, or the first one when the second leads there already. */
function lead() {
  const s = selection.value
  if (!s || !it.value?.second_video) return
  const led = it.value.led.some((l) => l.start <= s.start && s.end <= l.end)
  void make({ do: led ? 'follow' : 'lead', ...s })
}

/** goToHit selects where something is said; of a slide, where it begins to stand. */
function goToHit(h: Schemas['Hit']) {
  if (h.where === 'said') selection.value = { start: h.start, end: h.end }
  player.value?.seek(h.start)
}

async function discard(deleted: boolean) {
  if (!(await act(() => setDeleted(props.recording, deleted)))) return
  await client.invalidateQueries({ queryKey: keys.recording(props.recording) })
  void client.invalidateQueries({ queryKey: keys.board })
}

useBenchKeys(
  {
    toggle: () => void player.value?.toggle(),
    step: (ms) => player.value?.seek(position.value + ms),
    faster: (by) => player.value?.faster(by),
    mark: (edge) => {
      const at = Math.round(position.value)
      const s = selection.value ?? { start: at, end: at }
      selection.value =
        edge === 'start' ? { start: at, end: Math.max(at, s.end) } : { start: Math.min(at, s.start), end: at }
    },
    extend: (ms) => {
      const at = Math.round(position.value)
      const s = selection.value ?? { start: at, end: at }
      selection.value =
        ms > 0
          ? { ...s, end: Math.min(it.value?.length_ms ?? 0, s.end + ms) }
          : { ...s, start: Math.max(0, s.start + ms) }
    },
    strike: strikeSelection,
    restore: restoreSelection,
    undo: () => it.value?.can_undo && void make({ do: 'undo' }),
    redo: () => it.value?.can_redo && void make({ do: 'redo' }),
    take: () => open.value[0] && void make({ do: 'strike', start: open.value[0].start, end: open.value[0].end }),
    takeAll: () => void strikeAll(),
    nudge,
    toSilence,
    hear,
    leave: () => open.value[0] && leave(open.value[0]),
    clear: () => (selection.value = undefined),
    select,
    lead,
    split: () => it.value?.state === 'ready' && (splitting.value = true),
    versions: () => (comparing.value = true),
    zoom: (by) => void page.value?.zoom(by),
    find: () => search.value?.focus(),
    help: () => (help.value = true),
  },
  () => strip.data.value?.frame_ms || 40,
)

watchEffect(() => nameTab(it.value?.title ?? ''))
</script>

<template>
  <FaultNote v-if="bench.error.value && !it" :error="bench.error.value" again @again="bench.refetch()" />
  <div v-if="it" class="with-side">
    <div class="page">
      <p class="soft over">
        <router-link :to="{ name: 'board', query: { lecture: it.lecture.id } }"
          >{{ it.course.code }} {{ it.course.title }}</router-link
        >
        <template v-if="it.week"> · {{ t('sheet.week', { n: it.week }) }}</template> ·
        {{ it.lecture.ahead ? t('date.ahead') : dateText(it.lecture.starts_at, it.zone) }}
      </p>
      <BenchHeading :bench="it" :keep="make" />
      <BenchNotes :bench="it" :make="make" @restore="discard(false)" />
      <BenchState v-if="it.state !== 'ready'" :bench="it" />
      <template v-else>
        <BenchTools
          :bench="it"
          :strip="strip.data.value"
          :selection="selection"
          :position="position"
          :per-line="page?.step"
          @strike="strikeSelection"
          @restore="restoreSelection"
          @make="make"
          @split="splitting = true"
          @versions="comparing = true"
          @zoom="(by) => page?.zoom(by)"
          @help="help = true"
        />
        <p v-if="looking" class="soft small" role="status">
          {{ t('versions.looking', { date: dayAndClock(looking.at, it.zone) }) }}
          <el-button link @click="looking = undefined">{{ t('versions.look_off') }}</el-button>
        </p>
        <FaultNote v-if="fault" :error="fault" />
        <div v-if="other" class="other" role="alert">
          {{ t('bench.other', { name: other.by, at: clockText(other.at, it.zone) }) }}
          <el-button @click="other && make(other.change, true)">
            {{ t('bench.other_too') }}
          </el-button>
          <el-button link @click="other = undefined">{{ t('bench.other_leave') }}</el-button>
        </div>
        <BenchSearch ref="search" :recording="it.id" @hits="(list) => (hits = list)" @go="goToHit" />
        <StripPage
          v-if="strip.data.value"
          ref="page"
          :length="it.length_ms"
          :strip="strip.data.value"
          :peaks="peaks"
          :struck="it.struck"
          :holes="it.holes"
          :markers="it.markers"
          :proposals="proposals"
          :position="position"
          :selection="selection"
          :led="it.led"
          :compared="looking?.struck"
          :hits="hits"
          @pauses="(at) => select('pauses', at)"
          @seek="(ms) => player?.seek(ms)"
          @select="(s) => (selection = s)"
          @strike="(s) => make({ do: 'strike', start: s.start, end: s.end })"
          @restore="(s) => make({ do: 'restore', start: s.start, end: s.end })"
          @leave="leave"
        />
        <p v-else-if="strip.error.value && !measuring">
          <FaultNote :error="strip.error.value" again @again="strip.refetch()" />
        </p>
        <p v-else role="status" class="soft">{{ t('bench.measuring') }}</p>
      </template>
      <BenchWatched
        v-if="!it.deleted && it.state === 'ready'"
        :course="it.course.id"
        :recording="it.id"
        :lit="it.lit"
        @seek="(ms) => player?.seek(ms)"
      />
      <BenchLost
        v-if="!it.deleted && it.state === 'ready'"
        :recording="it.id"
        :length="it.length_ms"
        @seek="(ms) => player?.seek(ms)"
      />
      <p v-if="!it.deleted" class="foot">
        <span v-if="strip.data.value" class="soft small how">{{ t('bench.how') }}</span>
        <el-button link @click="discard(true)">{{ t('bench.delete') }}</el-button>
      </p>
      <BenchFiles v-if="!it.deleted && it.state === 'ready'" :bench="it" @fault="(e) => (fault = e)" />
    </div>
    <aside class="stays">
      <LecturePlayer
        v-if="it.media"
        ref="player"
        :media="it.media"
        :kept="it.state === 'ready' ? it.kept : undefined"
        :pictures="it.video"
        :second="it.second_video"
        :live="!it.stopped"
        :gain="strip.data.value?.gain?.db"
        :led="it.led"
        :label="t('bench.player')"
        @time="(source) => (position = source)"
      />
      <NextStep
        v-if="!it.deleted"
        :bench="it"
        :open="open.length"
        :busy="busy"
        @make="make"
        @strike-all="strikeAll"
        @chapters="chaptering = true"
      />
      <FaultNote v-if="fault && it.state !== 'ready'" :error="fault" />
    </aside>
    <KeysSheet :open="help" @close="help = false" />
    <SplitSheet v-if="splitting" open :recording="it.id" :at="position" :zone="it.zone" @close="splitting = false" />
    <ChaptersSheet
      v-if="chaptering"
      open
      :recording="it.id"
      :position="position"
      @close="chaptering = false"
      @seek="(ms) => player?.seek(ms)"
    />
    <VersionsSheet
      :open="comparing"
      :recording="it.id"
      :zone="it.zone"
      :looking="looking"
      :make="make"
      @close="comparing = false"
      @look="(v) => (looking = v)"
    />
  </div>
</template>

<style scoped>
.other {
  margin: 8px 0;
  padding: 8px 12px;
  border-inline-start: 3px solid var(--edge);
  background: var(--kelp-soft);
}

.other .el-button {
  margin: 0 10px;
  padding: 4px 10px;
}

.foot {
  display: flex;
  gap: 4px 24px;
  flex-wrap: wrap;
  justify-content: space-between;
  margin: 14px 0 0;
}
</style>
