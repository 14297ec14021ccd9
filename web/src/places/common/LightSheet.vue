<script setup lang="ts">
/** Gives recordings to several courses in one step: light, darkness, a rule. Who gains and loses is seen before. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { changeLighting, previewLighting, undoLighting } from '../../api/lighting'
import { useMe } from '../../api/me'
import type { Rule } from '../../api/rules'
import { useCourses } from '../../api/timetable'
import ChoiceMany from '../../parts/ChoiceMany.vue'
import FaultNote from '../../parts/FaultNote.vue'
import PageSheet from '../../parts/PageSheet.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'
import { locale } from '../../parts/reader'
import { dayAndClock } from '../../parts/time'
import GivenHour from './GivenHour.vue'
import GivenRule, { type Ruling } from './GivenRule.vue'
import LightGrid from './LightGrid.vue'
import PlannedSteps from './PlannedSteps.vue'
import WhoChanges from './WhoChanges.vue'
import { taught } from './choices'

const props = defineProps<{
  /** Of those which are given is chosen here; of one it is that one. */
  recordings: { id: string; title: string }[]
  /** The course from which one comes; '' when each is given to that of its own lecture. */
  course: string
  /** Courses that are chosen with it. */
  also?: string[]
  zone: string
}>()
const emit = defineEmits<{ close: [] }>()
const { t } = useI18n()
const client = useQueryClient()
const me = useMe()
const all = useCourses()
const { busy, whole, fields, send } = useForm()

const chosen = ref(props.recordings.map((r) => r.id))
const courses = ref<string[]>(props.course ? [props.course, ...(props.also ?? [])] : [])
const own = ref(!props.course)
const light = ref<'light' | 'darken' | 'stays'>('light')
/** The students are told as soon as they can watch. */
const tell = ref(false)
const ruling = ref<Ruling>('stays')
const rule = ref<Rule>()
/** At an hour that is set, which is '' while it is none. */
const later = ref(false)
const at = ref('')
const said = ref<Schemas['LightingPreview']>()
const done = ref<{ step: string; text: string }>()
/** What was set for an hour last: it is not set twice. */
const set = ref('')

/** The courses to which one may give: those one teaches, and for who coordinates all of the term. */
const options = computed(() => taught(all.data.value?.courses ?? [], me.data.value))
/** What is darkened is given no rule. */
const rules = computed(() => light.value !== 'darken')
/** A rule of its own begins with the one that holds, once that is known. */
const ready = computed(
  () => (!rules.value || ruling.value !== 'own' || rule.value !== undefined) && (!later.value || at.value !== ''),
)
const body = computed(() => ({
  recordings: chosen.value,
  courses: courses.value,
  own: own.value,
  lit: light.value === 'stays' ? undefined : light.value === 'light',
  rule: rules.value && ruling.value === 'own' ? rule.value : undefined,
  as_course: rules.value && ruling.value === 'course',
  tell: tell.value && light.value === 'light',
  at: later.value && at.value ? at.value : undefined,
}))
const asked = computed(() => said.value?.cells.filter((c) => c.asked) ?? [])
const codes = computed(() => [...new Set(asked.value.map((c) => c.code))])
const named = computed(() =>
  codes.value.length > 3
    ? t('lighting.n_courses', { n: codes.value.length })
    : new Intl.ListFormat(locale).format(codes.value),
)
/** What would change: recordings in courses whose light or rule would be another. */
const open = computed(() => asked.value.filter((c) => c.changes).length)
const press = computed(() => {
  const key = light.value === 'stays' ? 'rule_n' : light.value === 'light' ? 'light_n' : 'darken_n'
  return t(`lighting.${key}`, { n: open.value, courses: named.value }, open.value)
})
const begins = computed(() => ({
  course: asked.value[0]?.course_id ?? props.course,
  recording: asked.value[0]?.recording_id ?? '',
}))

/** It could not be said what would change: such a thing is not done. */
const faulty = ref(false)
let last = 0
async function look() {
  const mine = ++last
  const none = chosen.value.length === 0
  const ids = none
    ? { recordings: props.recordings.map((r) => r.id), courses: [], own: false, lit: undefined }
    : body.value
  const got = await send(() => previewLighting(ids))
  if (mine !== last) return
  faulty.value = got === undefined
  if (got) said.value = got
}
watch(body, look, { immediate: true, deep: true })

async function make() {
  const n = open.value
  const step = await send(() => changeLighting(body.value))
  if (!step) return
  const key = light.value === 'stays' ? 'ruled' : light.value === 'light' ? 'lit' : 'darkened'
  const told = body.value.tell ? ` ${t('lighting.told')}` : ''
  const text = body.value.at
    ? t('lighting.will', { at: dayAndClock(body.value.at, props.zone) })
    : t(`lighting.${key}`, { n }, n) + told
  done.value = { step: step.step, text }
  set.value = body.value.at ? JSON.stringify(body.value) : ''
  void client.invalidateQueries()
  void look()
}
</script>

<template>
  <PageSheet open wide :title="t('lighting.title')" @close="emit('close')">
    <el-checkbox v-if="!course" v-model="own">{{ t('lighting.own') }}</el-checkbox>
    <ChoiceMany v-model="courses" :label="t(course ? 'lighting.courses' : 'lighting.beside')" :options="options" />
    <div class="what">
      <el-segmented
        v-model="light"
        :aria-label="t('lighting.what')"
        :options="[
          { value: 'light', label: t('lighting.light') },
          { value: 'darken', label: t('lighting.darken') },
          { value: 'stays', label: t('lighting.as_it_is') },
        ]"
      />
      <GivenRule
        v-if="rules && begins.course"
        v-model:ruling="ruling"
        v-model:rule="rule"
        :begins="begins"
        :code="codes.length === 1 ? codes[0]! : ''"
        :groups="said?.groups ?? []"
        :zone="zone"
      />
    </div>
    <LightGrid
      v-if="said"
      v-model="chosen"
      :recordings="recordings"
      :cells="said.cells"
      :alone="own && courses.length === 0"
      :zone="zone"
    />
    <div v-if="said && asked.length > 0 && chosen.length > 0" class="people" role="status">
      <WhoChanges :change="said" />
    </div>
    <el-checkbox v-if="light === 'light' && open > 0" v-model="tell">{{ t('lighting.tell') }}</el-checkbox>
    <GivenHour v-model:later="later" v-model:at="at" :zone="zone" :fault="fields.at" />
    <FaultNote v-if="whole" :error="whole" />
    <UndoLine
      v-if="done"
      :key="done.step"
      :text="done.text"
      :undo="() => undoLighting(done!.step)"
      @undone="((set = ''), client.invalidateQueries(), look())"
    />
    <div class="bar-of-acts">
      <el-button
        type="primary"
        :disabled="busy || open === 0 || faulty || !ready || set === JSON.stringify(body)"
        @click="make"
      >
        {{ body.at ? t('lighting.press_at', { what: press, at: dayAndClock(body.at, zone) }) : press }}
      </el-button>
    </div>
    <PlannedSteps :zone="zone" :of="recordings.map((r) => r.id)" />
  </PageSheet>
</template>

<style scoped>
.what {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 18px;
  align-items: center;
  margin: 12px 0;
}

.what :deep(.own) {
  flex-basis: 100%;
}

.people {
  margin: 14px 0 4px;
}

.bar-of-acts {
  margin-top: 18px;
}
</style>
