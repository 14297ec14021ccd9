<script setup lang="ts">
/** Carries a course to another term: what comes and what stays is said before it is done, and a press takes it back. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, reactive, ref, watch, watchEffect } from 'vue'
import { useI18n } from 'vue-i18n'
import { carryCourse, previewCarry, undoCarry, useCarryChoice } from '../../api/carry'
import { Problem, type Schemas } from '../../api/client'
import { useCourse } from '../../api/timetable'
import ChoiceList from '../../parts/ChoiceList.vue'
import FaultNote from '../../parts/FaultNote.vue'
import FormText from '../../parts/FormText.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'
import { nameTab } from '../../router'
import CourseHead from '../common/CourseHead.vue'
import { courseChoices } from '../common/choices'
import CarrySaid from './CarrySaid.vue'

const props = defineProps<{ course: string }>()
const { t } = useI18n()
const client = useQueryClient()
const page = useCourse(() => props.course)
const it = computed(() => page.data.value)
const choice = useCarryChoice(() => props.course)
const { busy, whole, fields, send } = useForm()
watchEffect(() => nameTab(it.value ? `${it.value.code} · ${t('carry.name')}` : ''))

const term = ref('')
/** A course that is there, or '' for one that is made. */
const to = ref('')
const code = ref('')
const title = ref('')
const parts = reactive({ plan: true, lists: true, again: false, rule: true, staff: true, settings: true })
const names = ['plan', 'staff', 'lists', 'again', 'rule', 'settings'] as const

const terms = computed(() => (choice.data.value?.terms ?? []).map((x) => ({ value: x.id, text: x.name })))
const courses = computed(() => {
  const there = courseChoices((choice.data.value?.courses ?? []).filter((c) => c.term_id === term.value))
  return choice.data.value?.makes ? [{ value: '', text: t('carry.make') }, ...there] : there
})
watch(terms, (now) => (term.value ||= now[0]?.value ?? ''), { immediate: true })
/** The course of the same code is meant, if it is there. */
watch(
  [courses, it],
  () => {
    const list = (choice.data.value?.courses ?? []).filter((c) => c.term_id === term.value)
    const same = list.find((c) => c.code === it.value?.code)
    to.value = same?.id ?? (choice.data.value?.makes ? '' : (list[0]?.id ?? ''))
  },
  { immediate: true },
)
watch(
  it,
  (now) => {
    code.value ||= now?.code ?? ''
    title.value ||= now?.title ?? ''
  },
  { immediate: true },
)

const able = computed(() => term.value !== '' && (to.value !== '' || !!choice.data.value?.makes))
const body = computed(() => ({
  ...parts,
  again: parts.again && parts.lists,
  to: to.value || undefined,
  term: to.value ? undefined : term.value,
  code: code.value,
  title: title.value,
}))
const said = ref<Schemas['CarrySaid']>()
const done = ref<{ course: string; text: string }>()
let last = 0
async function look() {
  const mine = ++last
  said.value = undefined
  if (!able.value || !it.value) return
  const got = await send(() => previewCarry(props.course, body.value))
  if (mine === last) said.value = got
}
watch([body, able, it], look, { immediate: true })

async function carry() {
  const made = await send(() => carryCourse(props.course, body.value))
  if (!made) return
  const into = terms.value.find((x) => x.value === term.value)?.text ?? ''
  done.value = { course: made.course_id, text: t('carry.done', { code: it.value!.code, term: into }) }
  void client.invalidateQueries()
}

async function back() {
  await undoCarry(done.value!.course)
  void client.invalidateQueries()
}
</script>

<template>
  <FaultNote v-if="page.error.value && !it" :error="page.error.value" again @again="page.refetch()" />
  <CourseHead v-if="it" :course="it" :staff="it.staff" />
  <FaultNote v-if="it && !it.staff" :error="new Problem(403, 'not_staff')" />
  <section v-else-if="it && choice.data.value" class="narrow">
    <div class="page">
      <h2>{{ t('carry.name') }}</h2>
      <p class="soft">{{ t('carry.lead') }}</p>
      <p v-if="terms.length === 0">{{ t('carry.no_term') }}</p>
      <form v-else @submit.prevent="carry">
        <p class="where">
          <ChoiceList v-model="term" :label="t('carry.term')" :options="terms" />
          <ChoiceList v-if="courses.length > 0" v-model="to" :label="t('carry.course')" :options="courses" />
        </p>
        <p v-if="courses.length === 0">{{ t('carry.no_course') }}</p>
        <template v-if="to === '' && choice.data.value.makes">
          <FormText v-model="code" :label="t('course.code')" :fault="fields.code" />
          <FormText v-model="title" :label="t('course.title')" :fault="fields.title" size="wide" />
        </template>
        <fieldset>
          <legend>{{ t('carry.what') }}</legend>
          <el-checkbox
            v-for="n in names"
            :key="n"
            v-model="parts[n]"
            :class="{ within: n === 'again' }"
            :disabled="n === 'again' && !parts.lists"
            >{{ t(`carry.part.${n}`) }}</el-checkbox
          >
        </fieldset>
        <CarrySaid v-if="said" :said="said" :parts="parts" />
        <FaultNote v-if="whole" :error="whole" />
        <UndoLine v-if="done" :key="done.course" :text="done.text" :undo="back" />
        <div class="bar-of-acts">
          <el-button type="primary" native-type="submit" :disabled="busy || !said">{{ t('carry.do') }}</el-button>
          <router-link v-if="done" :to="{ name: 'course', params: { course: done.course } }">{{
            t('carry.open')
          }}</router-link>
        </div>
      </form>
      <template v-if="choice.data.value.carried.length > 0">
        <h2>{{ t('carry.before') }}</h2>
        <ul class="plain">
          <li v-for="c in choice.data.value.carried" :key="c.id">
            <router-link :to="{ name: 'course', params: { course: c.id } }">{{ c.code }} {{ c.title }}</router-link>
            <span class="soft">{{ terms.find((x) => x.value === c.term_id)?.text }}</span>
          </li>
        </ul>
      </template>
    </div>
  </section>
</template>

<style scoped>
.narrow {
  max-width: 760px;
}

.where {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 24px;
}

fieldset {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  margin: 14px 0;
  padding: 0;
  border: 0;
}

legend {
  padding: 0;
  font-weight: 600;
}

.within {
  margin-inline-start: 26px;
}

li {
  display: flex;
  gap: 14px;
  padding: 4px 0;
}
</style>
