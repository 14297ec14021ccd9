<script setup lang="ts">
/** The captions of a recording, line by line: heard, corrected, found, brought in and taken out. */
import { computed, nextTick, ref, watch, watchEffect } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { useBench } from '../../api/bench'
import { useCaptionChanges, useCaptionPage, useCaptions, type Correction } from '../../api/captions'
import { ask, Problem } from '../../api/client'
import FaultNote from '../../parts/FaultNote.vue'
import { useLanguageNames } from '../../parts/language'
import LecturePlayer from '../../parts/LecturePlayer.vue'
import { nameTab } from '../../router'
import BringCaptions from './BringCaptions.vue'
import CaptionRow from './CaptionRow.vue'
import CaptionState from './CaptionState.vue'
import FindReplace from './FindReplace.vue'
import ProposedLines from './ProposedLines.vue'

const props = defineProps<{ recording: string; language?: string }>()
const { t } = useI18n()
const router = useRouter()
const bench = useBench(() => props.recording)
const all = useCaptions(() => props.recording)
const list = computed(() => all.data.value?.captions ?? [])
const language = computed(() => {
  if (props.language) return props.language
  return (list.value.find((c) => c.language === all.data.value?.language) ?? list.value[0])?.language ?? ''
})
const page = useCaptionPage(() => props.recording, language)
const changes = useCaptionChanges(() => props.recording, language)
/** The list knows sooner how far a draft is. */
const it = computed(() => list.value.find((c) => c.language === language.value))
const lines = computed(() => (it.value ? (page.data.value?.text ?? []) : []))
const player = ref<InstanceType<typeof LecturePlayer>>()
const position = ref(0)
const current = ref('')
const follow = ref(true)
const hits = ref(new Set<string>())
const bringing = ref(false)
const taken = ref('')
const fault = ref<unknown>()
const rows = ref<InstanceType<typeof CaptionRow>[]>([])

const now = computed(() => lines.value.find((l) => l.start <= position.value && position.value < l.end)?.id)
const bySpeaker = computed(() => {
  const n = new Map<string, number>()
  for (const l of lines.value) if (l.speaker) n.set(l.speaker, (n.get(l.speaker) ?? 0) + 1)
  return n
})
const nameOf = useLanguageNames()

function play(n: number) {
  const l = lines.value[n]
  if (l) void player.value?.hearOut(l.start - 200, l.end + 250)
}

function come(n: number) {
  const l = lines.value[n]
  if (!l || current.value === l.id) return
  current.value = l.id
  if (follow.value) play(n)
}

/** The row of a line: they are gathered in the order in which they came to be. */
const rowOf = (id: string) => rows.value.find((r) => (r.$el as HTMLElement).dataset.line === id)

async function go(n: number) {
  const l = lines.value[n]
  if (!l) return
  const row = rowOf(l.id)
  ;(row?.$el as HTMLElement | undefined)?.scrollIntoView({ block: 'nearest' })
  await nextTick()
  row?.focus()
}

async function make(what: () => Promise<unknown>) {
  fault.value = undefined
  try {
    await what()
  } catch (e) {
    fault.value = e
  }
}

async function correct(id: string, c: Correction) {
  try {
    return await changes.correct(id, c)
  } catch (e) {
    if (e instanceof Problem && e.kind === 'other_line') await page.refetch()
    throw e
  }
}

function nextHit() {
  const ids = lines.value.map((l, n) => [l.id, n] as const).filter(([id]) => hits.value.has(id))
  const here = lines.value.findIndex((l) => l.id === current.value)
  const to = ids.find(([, n]) => n > here) ?? ids[0]
  if (to) void go(to[1])
}

function wasTaken(tag: string, n: number) {
  bringing.value = false
  taken.value = t('caption_file.taken', { n }, n)
  void all.refetch()
  void page.refetch()
  if (tag !== language.value)
    void router.push({ name: 'captions', params: { recording: props.recording, language: tag } })
}

const draftIt = () =>
  make(async () => {
    const tag = all.data.value!.language
    await ask((c) =>
      c.POST('/api/recordings/{recording}/captions/{language}/draft', {
        params: { path: { recording: props.recording, language: tag } },
      }),
    )
    await all.refetch()
  })

function undoKey(e: KeyboardEvent) {
  if (!(e.ctrlKey || e.metaKey) || (e.target as HTMLElement).closest('textarea, input')) return
  if (e.key.toLowerCase() !== 'z') return
  e.preventDefault()
  void make(e.shiftKey ? changes.redo : changes.undo)
}

watch(language, () => (current.value = ''))
watch(
  () => it.value && [it.value.lines, it.value.share, it.value.state].join(),
  () => void page.refetch(),
)
watchEffect(() => nameTab(bench.data.value ? t('captions.of', { title: bench.data.value.title }) : ''))
const out = (form: string, clock: string) =>
  `/api/recordings/${props.recording}/captions/${encodeURIComponent(language.value)}/file?form=${form}&clock=${clock}`
</script>

<template>
  <FaultNote v-if="bench.error.value && !bench.data.value" :error="bench.error.value" again @again="bench.refetch()" />
  <FaultNote v-else-if="all.error.value && !all.data.value" :error="all.error.value" again @again="all.refetch()" />
  <div v-else-if="bench.data.value && all.data.value" class="with-side" @keydown="undoKey">
    <section class="page">
      <p class="soft over">
        {{ bench.data.value.course.code }} ·
        <router-link :to="{ name: 'trim-bench', params: { recording } }">{{ t('captions.back') }}</router-link>
      </p>
      <h1>{{ t('captions.of', { title: bench.data.value.title }) }}</h1>
      <nav v-if="list.length > 1" class="languages" :aria-label="t('captions.language')">
        <router-link
          v-for="c in list"
          :key="c.language"
          :to="{ name: 'captions', params: { recording, language: c.language } }"
          :aria-current="c.language === language ? 'page' : undefined"
          >{{ nameOf(c.language) }}</router-link
        >
      </nav>
      <template v-if="!it">
        <p>{{ t('captions.none') }} {{ t('captions.none_help') }}</p>
        <p class="acts">
          <el-button v-if="all.data.value.drafts" type="primary" @click="draftIt">
            {{ t('captions.draft_it') }}
          </el-button>
          <el-button @click="bringing = true">{{ t('captions.bring') }}</el-button>
        </p>
      </template>
      <CaptionState v-else :captions="it" :changes="changes" />
      <p v-if="taken" role="status">{{ taken }}</p>
      <FaultNote v-if="fault" :error="fault" />
      <ProposedLines
        v-if="page.data.value"
        :key="language"
        :proposed="page.data.value.proposed"
        :changes="changes"
        @play="(line) => play(lines.findIndex((l) => l.id === line))"
      />
      <template v-if="lines.length > 0">
        <FindReplace
          :recording="recording"
          :language="language"
          :replace="async (r) => (await changes.replace(r)).places ?? 0"
          @found="(lines) => (hits = new Set(lines))"
          @next="nextHit"
        />
        <ol class="plain lines" :aria-label="t('captions.list')">
          <CaptionRow
            v-for="(l, n) in lines"
            :key="l.id"
            ref="rows"
            :line="l"
            :open="l.id === current"
            :now="l.id === now"
            :found="hits.has(l.id)"
            :draft="!!it?.drafted_by"
            :last="n === lines.length - 1"
            :speakers="page.data.value?.speakers ?? []"
            :others="l.speaker ? (bySpeaker.get(l.speaker) ?? 1) - 1 : 0"
            :keep="(c) => correct(l.id, c)"
            @come="come(n)"
            @next="go(n + 1)"
            @before="go(n - 1)"
            @play="play(n)"
            @toggle="player?.toggle()"
            @part="(at) => make(() => changes.split(l.id, at))"
            @join="make(() => changes.join(l.id))"
          />
        </ol>
      </template>
    </section>
    <aside class="stays">
      <LecturePlayer
        v-if="bench.data.value.media"
        ref="player"
        :media="bench.data.value.media"
        :pictures="bench.data.value.video"
        :second="bench.data.value.second_video"
        :label="bench.data.value.title"
        @time="(at) => (position = at)"
      />
      <template v-if="it">
        <p class="acts">
          <el-button :disabled="!page.data.value?.can_undo" @click="make(changes.undo)">
            {{ t('captions.undo') }}
          </el-button>
          <el-button :disabled="!page.data.value?.can_redo" @click="make(changes.redo)">
            {{ t('captions.redo') }}
          </el-button>
        </p>
        <p>
          <el-checkbox v-model="follow">{{ t('captions.follow') }}</el-checkbox>
        </p>
        <p class="soft small">{{ t('captions.keys') }}</p>
        <h2>{{ t('captions.out') }}</h2>
        <ul class="plain small">
          <li v-for="clock in ['captured', 'published']" :key="clock">
            {{ t(`captions.as_${clock}`) }}: <a :href="out('vtt', clock)" download>WebVTT</a>,
            <a :href="out('srt', clock)" download>SubRip</a>
          </li>
        </ul>
        <p>
          <el-button link @click="bringing = true">{{ t('captions.bring') }}</el-button>
        </p>
      </template>
    </aside>
    <BringCaptions
      v-if="bringing"
      open
      :recording="recording"
      :published="bench.data.value.lit"
      @close="bringing = false"
      @taken="wasTaken"
    />
  </div>
</template>

<style scoped>
.languages {
  display: flex;
  gap: 16px;
  margin: 6px 0 10px;
}

.languages [aria-current] {
  color: var(--ink);
  font-weight: 700;
  text-decoration: none;
}

.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 10px;
  margin-top: 12px;
}

.lines {
  margin: 0 -16px;
}

@media (max-width: 1000px) {
  aside {
    order: -1;
  }
}
</style>
