<script setup lang="ts">
/** The questions that a course keeps to put to all: written here, or brought in from a file; taken along as one. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watchEffect } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { keys } from '../../api/queries'
import { useCourse } from '../../api/timetable'
import {
  bringBackQuestion,
  bringQuestions,
  dropQuestion,
  prepareQuestion,
  usePrepared,
  type QuestionText,
} from '../../api/toAll'
import { say } from '../../messages/said'
import FaultNote from '../../parts/FaultNote.vue'
import FilePick from '../../parts/FilePick.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'
import { newId } from '../../parts/uuid'
import { nameTab } from '../../router'
import CourseHead from '../common/CourseHead.vue'
import QuestionForm from '../common/to-all/QuestionForm.vue'
import { written } from '../common/to-all/written'

const props = defineProps<{ course: string }>()
const { t } = useI18n()
const client = useQueryClient()
const page = useCourse(() => props.course)
const list = usePrepared(() => props.course)
const all = computed(() => list.data.value?.questions ?? [])
/** What is written now: a new one, or one that is changed, as it began. */
const editing = ref<{ id: string; question: QuestionText }>()
const form = useForm(() => editing.value?.question)
const { draft, done } = form
const bringing = useForm()
const brought = ref<Schemas['BroughtQuestions']>()

const refresh = () => client.invalidateQueries({ queryKey: keys.prepared(props.course) })
function edit(id: string, question: QuestionText) {
  form.problem.value = undefined
  editing.value = { id, question }
  form.reset()
}
const begin = () => edit(newId(), { kind: 'one', text: '', choices: ['', ''], right: [] })
/** back takes something back, and shows it. */
const back = (undo: () => Promise<unknown>) => async () => {
  await undo()
  await refresh()
}

async function keep() {
  const x = editing.value
  if (!x || !draft.value) return
  const was = all.value.find((q) => q.id === x.id)?.question
  const now = written(draft.value)
  if (!(await form.act(() => prepareQuestion(props.course, x.id, now)))) return
  editing.value = undefined
  await refresh()
  form.said(
    t('prepared.kept', { text: now.text }),
    back(() => (was ? prepareQuestion(props.course, x.id, was) : dropQuestion(props.course, x.id))),
  )
}
async function drop(q: Schemas['PreparedQuestion']) {
  if (!(await form.act(() => dropQuestion(props.course, q.id)))) return
  await refresh()
  form.said(
    t('prepared.dropped', { text: q.question.text }),
    back(() => bringBackQuestion(props.course, q.id)),
  )
}
async function bring(files: File[]) {
  const [file] = files
  if (!file) return
  brought.value = await bringing.send(() => bringQuestions(props.course, file))
  await refresh()
}
/** The forms in which they go out, by their own names. */
const forms = { csv: 'CSV', qti2: 'QTI 2.1', qti3: 'QTI 3.0' }
const file = (kind: string) => `/api/courses/${props.course}/prepared-questions-file?form=${kind}`
watchEffect(() => nameTab(page.data.value ? `${t('course.at.to_all')} · ${page.data.value.code}` : ''))
</script>

<template>
  <CourseHead v-if="page.data.value" :course="page.data.value" :staff="page.data.value.staff" />
  <FaultNote v-if="list.error.value && !list.data.value" :error="list.error.value" again @again="list.refetch()" />
  <div v-else-if="list.data.value" class="with-side prepared">
    <section>
      <p class="soft">{{ t(all.length === 0 ? 'prepared.none' : 'prepared.help') }}</p>
      <UndoLine v-if="done" v-bind="done" :key="done.key" />
      <ol v-if="all.length > 0" class="page line-list">
        <li v-for="q in all" :key="q.id">
          <form v-if="draft && editing?.id === q.id" @submit.prevent="keep">
            <QuestionForm v-model="draft" :faults="form.fields.value" />
            <div class="bar-of-acts">
              <el-button native-type="submit" type="primary" :disabled="form.busy.value">{{ t('keep') }}</el-button>
              <el-button link @click="editing = undefined">{{ t('leave') }}</el-button>
            </div>
          </form>
          <div v-else class="one">
            <div class="what">
              <p class="text">
                <bdi>{{ q.question.text }}</bdi>
              </p>
              <p v-if="q.question.choices.length > 0" class="small choices">
                <span v-for="(c, i) in q.question.choices" :key="i"
                  ><bdi>{{ c }}</bdi>
                  <span v-if="q.question.right.includes(i)" class="sign">{{ t('to_all.right') }}</span></span
                >
              </p>
              <p v-else class="soft small">{{ t(`to_all.kinds.${q.question.kind}`) }}</p>
            </div>
            <el-button
              size="small"
              :aria-label="t('prepared.change_it', { text: q.question.text })"
              @click="edit(q.id, q.question)"
              >{{ t('change') }}</el-button
            >
            <el-button
              link
              size="small"
              :aria-label="t('prepared.drop_it', { text: q.question.text })"
              @click="drop(q)"
              >{{ t('remove') }}</el-button
            >
          </div>
        </li>
      </ol>
      <form v-if="draft && editing && !all.some((q) => q.id === editing!.id)" class="page new" @submit.prevent="keep">
        <QuestionForm v-model="draft" :faults="form.fields.value" />
        <div class="bar-of-acts">
          <el-button native-type="submit" type="primary" :disabled="form.busy.value">{{ t('keep') }}</el-button>
          <el-button link @click="editing = undefined">{{ t('leave') }}</el-button>
        </div>
      </form>
      <el-button v-else-if="!editing" type="primary" class="add" @click="begin">{{ t('prepared.add') }}</el-button>
      <FaultNote v-if="form.whole.value" :error="form.whole.value" />
    </section>
    <aside class="side">
      <section>
        <h2>{{ t('prepared.bring') }}</h2>
        <p class="soft small">{{ t('prepared.bring_help') }}</p>
        <FilePick :text="t('prepared.choose')" accept=".csv,.xml,.zip" @files="bring" />
        <FaultNote v-if="bringing.problem.value" :error="bringing.problem.value" />
        <div v-if="brought" role="status" class="small">
          <p>{{ t('prepared.brought', { n: brought.brought }, brought.brought) }}</p>
          <template v-if="brought.left.length > 0">
            <p>{{ t('prepared.left_out', { n: brought.left.length }, brought.left.length) }}</p>
            <ul>
              <li v-for="(x, i) in brought.left" :key="i">
                <bdi>{{ x.name }}</bdi>: {{ say(x.why) }}
              </li>
            </ul>
          </template>
        </div>
      </section>
      <section v-if="all.length > 0">
        <h2>{{ t('prepared.take') }}</h2>
        <p class="small files">
          <a v-for="(name, kind) in forms" :key="kind" :href="file(kind)" download>{{ name }}</a>
        </p>
      </section>
    </aside>
  </div>
</template>

<style scoped>
.prepared {
  --side: 300px;
}

.one {
  display: flex;
  gap: 12px;
  align-items: baseline;
  width: 100%;
}

.what {
  flex: 1;
  min-width: 0;
}

.what p {
  margin: 0;
  overflow-wrap: anywhere;
}

.text {
  font: 17px/1.35 var(--serif);
  white-space: pre-line;
}

.choices {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 16px;
}

.sign {
  padding: 0 6px;
  border: 1px solid var(--kelp);
  border-radius: 3px;
  font-size: 12px;
}

form {
  width: 100%;
}

.new {
  padding: 12px 18px 16px;
}

.add {
  margin-top: 14px;
}

.bar-of-acts {
  margin-top: 12px;
}

.side section {
  padding: 14px 0;
  border-bottom: 1px solid var(--rule);
}

.side h2 {
  margin-bottom: 4px;
  font-size: 16px;
}

.files {
  display: flex;
  gap: 18px;
}
</style>
