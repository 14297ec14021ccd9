<script setup lang="ts">
/** What is new to oneself, from wherever one is: what waits for one, and what one was told or answered. */
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, type RouteLocationRaw } from 'vue-router'
import { useNotices, useSeen } from '../../api/news'
import FaultNote from '../../parts/FaultNote.vue'
import { useForm } from '../../parts/form'
import PageSheet from '../../parts/PageSheet.vue'
import { dateText } from '../../parts/time'
import UndoLine from '../../parts/UndoLine.vue'

interface Line {
  key: string
  text: string
  course: string
  at: string
  to: RouteLocationRaw
}

const { t } = useI18n()
const route = useRoute()
const page = useNotices()
const see = useSeen()
const open = ref(false)
const it = computed(() => page.data.value)
const { busy, problem, done, act, said } = useForm()

const waiting = computed<Line[]>(() =>
  (['asked', 'proposed', 'objected'] as const).flatMap((kind) =>
    (it.value?.[kind] ?? []).map((x) => ({
      key: kind + x.of,
      text: t(`frame.news.${kind}`, { course: x.course, title: x.title || x.course, n: x.n }, x.n),
      course: x.course,
      at: x.at,
      to: {
        asked: { name: 'course-questions', params: { course: x.of } },
        proposed: { name: 'captions', params: { recording: x.of } },
        objected: { name: 'lecture', params: { lecture: x.of } },
      }[kind],
    })),
  ),
)
const told = computed<Line[]>(() => [
  ...(it.value?.replies ?? []).map((x) => ({
    key: x.question_id,
    text: t('frame.news.answered', { text: x.text }),
    course: x.course,
    at: x.at,
    to: x.recording_id
      ? { name: 'watch', params: { recording: x.recording_id } }
      : { name: 'lecture', params: { lecture: x.lecture_id } },
  })),
  ...(it.value?.notices ?? []).map((x) => ({
    key: x.recording_id,
    text: x.title,
    course: x.course,
    at: x.at,
    to: { name: 'watch', params: { recording: x.recording_id } },
  })),
])
const parts = computed(() =>
  [
    { name: 'people', lines: waiting.value },
    { name: 'told', lines: told.value },
  ].filter((x) => x.lines.length > 0),
)
/** So many lines are new. */
const n = computed(() => waiting.value.length + told.value.length)

watch(
  () => route.fullPath,
  () => (open.value = false),
)

async function seen() {
  const what = {
    recordings: it.value!.notices.map((x) => x.recording_id),
    questions: it.value!.replies.map((x) => x.question_id),
  }
  if (await act(() => see(what, true))) said(t('frame.news.gone'), () => see(what, false))
}
</script>

<template>
  <el-button
    text
    class="news"
    aria-haspopup="dialog"
    :aria-label="n ? t('frame.news.n', { n }) : t('frame.news.new')"
    :title="t('frame.news.new')"
    @click="open = true"
  >
    <svg viewBox="0 0 18 18" aria-hidden="true">
      <path d="M4 1.5v15" />
      <path :class="{ full: n }" d="M4 3h11.5l-3.5 3.5 3.5 3.5H4z" />
    </svg>
    <span v-if="n" class="n">{{ n }}</span>
  </el-button>
  <PageSheet :open="open" :title="t('frame.news.new')" @close="open = false">
    <FaultNote v-if="page.error.value && !it" :error="page.error.value" again @again="page.refetch()" />
    <p v-else-if="n === 0 && !done">{{ t('frame.news.none') }}</p>
    <section v-for="p in parts" :key="p.name">
      <h3>{{ t(`frame.news.${p.name}`) }}</h3>
      <ul class="plain">
        <li v-for="l in p.lines" :key="l.key">
          <router-link :to="l.to" @click="open = false"
            ><bdi>{{ l.text }}</bdi></router-link
          >
          <span class="soft small">{{ t('frame.news.on', { course: l.course, day: dateText(l.at, it!.zone) }) }}</span>
        </li>
      </ul>
      <el-button v-if="p.name === 'told'" link :disabled="busy" @click="seen">{{ t('frame.news.seen') }}</el-button>
    </section>
    <FaultNote v-if="problem" :error="problem" />
    <UndoLine v-if="done" v-bind="done" :key="done.key" />
    <p class="soft small hint">{{ t('frame.news.hint') }}</p>
  </PageSheet>
</template>

<style scoped>
.news {
  min-width: 36px;
  padding: 8px;
}

.news svg {
  width: 18px;
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.5;
  stroke-linecap: round;
  stroke-linejoin: round;
}

.news .full {
  fill: var(--kelp);
  stroke: var(--kelp);
}

.n {
  margin-inline-start: 4px;
  font-variant-numeric: tabular-nums;
}

section {
  margin-bottom: 20px;
}

h3 {
  margin: 14px 0 2px;
}

ul {
  margin: 0 0 8px;
}

li {
  padding: 8px 0;
  border-bottom: 1px solid var(--rule);
}

li span {
  display: block;
  margin-top: 2px;
}

.hint {
  margin-top: 18px;
}
</style>
