<script setup lang="ts">
/** Lights recordings for several courses in one step, or darkens them: who gains and loses is seen before. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Schemas } from '../../api/client'
import { changeLighting, previewLighting, undoLighting } from '../../api/lighting'
import { useMe } from '../../api/me'
import { useCourses } from '../../api/timetable'
import ChoiceMany from '../../parts/ChoiceMany.vue'
import FaultNote from '../../parts/FaultNote.vue'
import PageSheet from '../../parts/PageSheet.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'
import { locale } from '../../parts/reader'
import LightGrid from './LightGrid.vue'

const props = defineProps<{
  /** Of those which are lit is chosen here; of one it is that one. */
  recordings: { id: string; title: string }[]
  /** The course from which one comes, whose zone it is. */
  course: string
  zone: string
}>()
const emit = defineEmits<{ close: [] }>()
const { t } = useI18n()
const client = useQueryClient()
const me = useMe()
const all = useCourses()
const { busy, problem, send } = useForm()

const chosen = ref(props.recordings.map((r) => r.id))
const courses = ref<string[]>([props.course])
const lit = ref(true)
const said = ref<Schemas['LightingPreview']>()
const done = ref<{ step: string; text: string }>()

/** The courses to which one may give: those one teaches, and for who coordinates all of the term. */
const options = computed(() =>
  (all.data.value?.courses ?? [])
    .filter((c) => me.data.value?.coordinator || c.role === 'lecturer' || c.role === 'assistant')
    .map((c) => ({ value: c.id, text: `${c.code} ${c.title}` })),
)
const body = computed(() => ({ recordings: chosen.value, courses: courses.value, lit: lit.value }))
const codes = computed(() => {
  const names = courses.value.map((id) => said.value?.cells.find((c) => c.course_id === id)?.code ?? '').filter(Boolean)
  return new Intl.ListFormat(locale).format(names)
})
/** What would change: pairs that are not so yet. */
const open = computed(
  () =>
    said.value?.cells.filter(
      (c) => c.lit !== lit.value && courses.value.includes(c.course_id) && chosen.value.includes(c.recording_id),
    ).length ?? 0,
)

let asked = 0
async function look() {
  const mine = ++asked
  const ids =
    chosen.value.length > 0 ? body.value : { ...body.value, recordings: props.recordings.map((r) => r.id), courses: [] }
  const got = await send(() => previewLighting(ids))
  if (mine === asked && got) said.value = got
}
watch(body, look, { immediate: true, deep: true })

async function make() {
  const n = open.value
  const step = await send(() => changeLighting(body.value))
  if (!step) return
  done.value = { step: step.step, text: t(lit.value ? 'lighting.lit' : 'lighting.darkened', { n }, n) }
  void client.invalidateQueries()
  void look()
}
</script>

<template>
  <PageSheet open wide :title="t('lighting.title')" @close="emit('close')">
    <ChoiceMany v-model="courses" :label="t('lighting.courses')" :options="options" />
    <el-segmented
      v-model="lit"
      :aria-label="t('lighting.what')"
      :options="[
        { value: true, label: t('lighting.light') },
        { value: false, label: t('lighting.darken') },
      ]"
    />
    <LightGrid v-if="said" v-model="chosen" :recordings="recordings" :cells="said.cells" :to="courses" :zone="zone" />
    <template v-if="said && courses.length > 0 && chosen.length > 0">
      <p role="status">
        <b>{{ t('lighting.gain', { n: said.gain.length }, said.gain.length) }}</b>
        {{ t('lighting.lose', { n: said.lose.length }, said.lose.length) }}
      </p>
      <details v-if="said.gain.length + said.lose.length > 0">
        <summary>{{ t('lighting.names') }}</summary>
        <p v-if="said.gain.length > 0" class="small">{{ t('lighting.gains') }} {{ said.gain.join(', ') }}</p>
        <p v-if="said.lose.length > 0" class="small">{{ t('lighting.loses') }} {{ said.lose.join(', ') }}</p>
      </details>
    </template>
    <FaultNote v-if="problem" :error="problem" />
    <UndoLine
      v-if="done"
      :key="done.step"
      :text="done.text"
      :undo="() => undoLighting(done!.step)"
      @undone="(client.invalidateQueries(), look())"
    />
    <div class="bar-of-acts">
      <el-button type="primary" :disabled="busy || open === 0" @click="make">
        {{ t(lit ? 'lighting.light_n' : 'lighting.darken_n', { n: open, courses: codes }, open) }}
      </el-button>
    </div>
  </PageSheet>
</template>

<style scoped>
.el-segmented {
  margin: 12px 0;
}

p {
  margin: 14px 0 4px;
}

.bar-of-acts {
  margin-top: 18px;
}
</style>
