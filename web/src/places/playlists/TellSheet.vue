<script setup lang="ts">
/** Tells the students of a course of recordings. Who is told, who is not and why stands there before. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import {
  forgetPlanned,
  previewNews,
  setSilent,
  takeNewsBack,
  tellStudents,
  useCourseNews,
  type NewsEffect,
} from '../../api/news'
import { keys } from '../../api/queries'
import FaultNote from '../../parts/FaultNote.vue'
import PageSheet from '../../parts/PageSheet.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'
import { dayAndClock, timecode } from '../../parts/time'
import MailText from './MailText.vue'
import TellWhy from './TellWhy.vue'

const props = defineProps<{ course: string; code: string; zone: string }>()
const emit = defineEmits<{ close: [] }>()
const { t } = useI18n()
const client = useQueryClient()
const page = useCourseNews(() => props.course)
const { busy, problem, send, act } = useForm()
const chosen = ref<string[]>([])
const effect = ref<NewsEffect>()
const done = ref<{ id: string; text: string }>()
const kept = ref(0)
/** What the mail says is being changed: it does not go before that is kept or left. */
const writing = ref(false)

const fresh = computed(() => page.data.value?.recordings.filter((r) => r.new > 0) ?? [])
/** In the order of their lectures. */
const body = computed(() =>
  fresh.value
    .filter((r) => chosen.value.includes(r.recording_id))
    .map((r) => r.recording_id)
    .reverse(),
)
// What comes to be new is chosen; what one left out, or nobody needs to be told of, stays left out.
watch(
  () => fresh.value.filter((r) => !r.silent).map((r) => r.recording_id),
  (now, was) => {
    const there = fresh.value.map((r) => r.recording_id)
    const come = now.filter((id) => !was?.includes(id))
    chosen.value = [...chosen.value.filter((id) => there.includes(id) && !come.includes(id)), ...come]
  },
  { immediate: true },
)
let last = 0
watch(
  body,
  async (ids) => {
    const mine = ++last
    const got = ids.length > 0 ? await send(() => previewNews(props.course, ids)) : undefined
    if (mine === last) effect.value = got
  },
  { immediate: true },
)
const mails = computed(() => {
  const e = effect.value
  if (!e || e.now + e.later === 0) return ''
  if (e.later === 0) return t('telling.mails_now', { n: e.now }, e.now)
  const next = dayAndClock(e.next, props.zone)
  if (e.now === 0) return t('telling.mails_later', { n: e.later, next }, e.later)
  return t('telling.mails', { n: e.now + e.later, now: e.now, later: e.later, next })
})

async function tell() {
  const n = effect.value?.people ?? 0
  const got = await send(() => tellStudents(props.course, body.value))
  if (!got) return
  kept.value = 0
  done.value = { id: got.id, text: t('telling.done_n', { n }, n) }
  await look()
}
/** back takes it back, but for those whose mail has gone. */
async function back() {
  kept.value = (await takeNewsBack(props.course, done.value!.id))?.kept ?? 0
}
/** Of which somebody said here that nobody need be told. They can be told all the same. */
const left = ref<{ ids: string[]; nth: number }>()
async function leave() {
  const ids = body.value
  if (!(await act(() => setSilent(props.course, ids, true)))) return
  left.value = { ids, nth: (left.value?.nth ?? 0) + 1 }
  chosen.value = []
  void client.invalidateQueries({ queryKey: keys.board })
}
async function unleave() {
  await setSilent(props.course, left.value!.ids, false)
  void client.invalidateQueries({ queryKey: keys.board })
}
const look = () => client.invalidateQueries({ queryKey: keys.courseNews(props.course) })
async function forget(recording: string) {
  await act(() => forgetPlanned(props.course, recording))
  await look()
}
const mailsOf = (x: { sent: number; waits: number; refused: number }) =>
  (['sent', 'waits', 'refused'] as const).filter((k) => x[k] > 0).map((k) => t(`telling.mail_${k}`, { n: x[k] }, x[k]))
</script>

<template>
  <PageSheet open wide :title="t('telling.title', { course: code })" @close="emit('close')">
    <FaultNote v-if="page.error.value && !page.data.value" :error="page.error.value" again @again="page.refetch()" />
    <template v-if="page.data.value">
      <UndoLine v-if="done" :key="done.id" :text="done.text" :undo="back" @undone="look" />
      <UndoLine
        v-if="left"
        :key="left.nth"
        :text="t('telling.silenced', { n: left.ids.length }, left.ids.length)"
        :undo="unleave"
      />
      <p v-if="kept > 0" role="status">{{ t('telling.kept', { n: kept }, kept) }}</p>
      <p v-if="fresh.length === 0" class="soft">{{ t('telling.all_told') }}</p>
      <template v-else>
        <el-checkbox-group v-model="chosen" class="list" :aria-label="t('telling.which')">
          <el-checkbox v-for="r in fresh" :key="r.recording_id" :value="r.recording_id">
            <span class="name">{{ r.title }}</span>
            <span class="soft small"
              ><span class="mono">{{ timecode(r.length_ms) }}</span> · {{ t('telling.new_to', { n: r.new }, r.new)
              }}{{ r.silent ? ` · ${t('telling.silent_one')}` : '' }}</span
            >
          </el-checkbox>
        </el-checkbox-group>
        <div v-if="effect" class="effect" role="status">
          <p>
            <b>{{ t('telling.people', { n: effect.people }, effect.people) }}</b> {{ mails }}
          </p>
          <TellWhy v-for="w in effect.no_mail" :key="w.why" :why="w" kind="no_mail" />
          <TellWhy v-for="w in effect.none" :key="w.why" :why="w" kind="none" />
        </div>
        <MailText v-model:open="writing" :course="course" :template="page.data.value.template" />
        <FaultNote v-if="problem" :error="problem" />
        <div class="bar-of-acts">
          <el-button type="primary" :disabled="busy || writing || !effect?.people" @click="tell">{{
            effect?.people ? t('telling.go', { n: effect.people }, effect.people) : t('telling.go_none')
          }}</el-button>
          <el-button link :disabled="busy || writing || body.length === 0" @click="leave">{{
            t('telling.silent', { n: body.length }, body.length)
          }}</el-button>
          <span v-if="writing" class="soft small">{{ t('telling.text_first') }}</span>
        </div>
      </template>
      <template v-if="page.data.value.planned.length > 0">
        <h3>{{ t('telling.planned') }}</h3>
        <ul class="past">
          <li v-for="x in page.data.value.planned" :key="x.recording_id" class="one">
            <span>{{ x.title }}</span>
            <el-button link :aria-label="t('telling.forget_of', { title: x.title })" @click="forget(x.recording_id)">{{
              t('telling.forget')
            }}</el-button>
          </li>
        </ul>
      </template>
      <template v-if="page.data.value.past.length > 0">
        <h3>{{ t('telling.past') }}</h3>
        <ul class="past">
          <li v-for="x in page.data.value.past" :key="x.id">
            <span class="soft small">{{ dayAndClock(x.at, zone) }}{{ x.by ? ` · ${x.by}` : '' }}</span>
            <span>{{ x.titles.join(' · ') }}</span>
            <span class="soft small"
              >{{ t('telling.told_n', { n: x.people }, x.people) }}
              <template v-for="m in mailsOf(x)" :key="m"> · {{ m }}</template></span
            >
          </li>
        </ul>
      </template>
    </template>
  </PageSheet>
</template>

<style scoped>
.list {
  display: flex;
  flex-direction: column;
  gap: 2px;
  max-height: 320px;
  font: inherit; /* the library gives a group none */
  overflow-y: auto;
}

.list .el-checkbox {
  height: auto;
  min-height: 40px;
  margin-inline-end: 0;
  white-space: normal;
}

.name {
  display: block;
}

.effect {
  margin: 14px 0 6px;
}

.bar-of-acts {
  margin-top: 18px;
}

h3 {
  margin: 28px 0 4px;
  padding-top: 14px;
  border-top: 1px solid var(--rule);
}

.past {
  margin: 0;
  padding: 0;
  list-style: none;
}

.past li.one {
  flex-flow: row wrap;
  gap: 4px 16px;
  justify-content: space-between;
}

.past li {
  display: flex;
  flex-direction: column;
  padding: 8px 0;
  border-bottom: 1px solid var(--rule);
}
</style>
