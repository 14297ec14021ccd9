<script setup lang="ts">
/**
 * A course seen as one of its students, as anyone of a group or as whoever has a link: what is open to them, and why
 * the rest is not, each with the press that mends it. It never acts as them.
 */
import { computed, watchEffect } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute, useRouter } from 'vue-router'
import { handoutAt } from '../../api/handouts'
import { useCoursePeople } from '../../api/people'
import { useSight, type Eyes } from '../../api/sight'
import { useCourse } from '../../api/timetable'
import ChoiceList from '../../parts/ChoiceList.vue'
import FaultNote from '../../parts/FaultNote.vue'
import { nameTab } from '../../router'
import { bytesText } from '../../parts/time'
import CourseHead from '../common/CourseHead.vue'
import { underWeeks } from '../common/weeks'
import SightEntry from './SightEntry.vue'
import SightRecording from './SightRecording.vue'

const props = defineProps<{ course: string }>()
const { t } = useI18n()
const route = useRoute()
const router = useRouter()
const page = useCourse(() => props.course)
const people = useCoursePeople(() => props.course)
const text = (name: string) => (typeof route.query[name] === 'string' ? route.query[name] : undefined)
const eyes = computed<Eyes>(() => {
  const [person, group, opening] = [text('person'), text('group'), text('opening')]
  return person ? { person } : opening ? { opening } : { group: group ?? '' }
})
const recording = computed(() => text('recording') ?? '')
const sight = useSight(() => props.course, eyes)
watchEffect(() => nameTab(page.data.value ? t('sight.of', { course: page.data.value.code }) : ''))

const code = computed(() => page.data.value?.code ?? '')
const groups = computed(() => people.data.value?.groups ?? [])
/** How someone of no name is called. */
const anyone = (group: string) =>
  group
    ? t('sight.some', { group: `${group}, ${code.value}` })
    : groups.value.length > 0
      ? t('sight.none')
      : t('sight.any', { course: code.value })
const name = computed(() => {
  const e = eyes.value
  if (e.opening) return t('sight.link', { name: text('link') ?? '' })
  return e.person ? (sight.data.value?.name ?? '…') : anyone(e.group ?? '')
})
const options = computed(() => [
  ...['', ...groups.value].map((g) => ({ value: `g ${g}`, text: anyone(g) })),
  ...(people.data.value?.people ?? [])
    .filter((p) => p.role === 'student')
    .map((p) => ({ value: `p ${p.id}`, text: p.group ? `${p.name} · ${p.group}` : p.name })),
  ...(eyes.value.opening ? [{ value: `o ${eyes.value.opening}`, text: name.value }] : []),
])
const chosen = computed({
  get: () => {
    const e = eyes.value
    return e.person ? `p ${e.person}` : e.opening ? `o ${e.opening}` : `g ${e.group}`
  },
  set: (v) => {
    const [kind, of] = [v[0], v.slice(2)]
    const query = kind === 'p' ? { person: of } : kind === 'g' ? { group: of } : { ...route.query }
    void router.replace({ query: { ...query, recording: recording.value || undefined } })
  },
})
const query = (recording?: string) => ({ ...eyes.value, link: text('link'), recording })
</script>

<template>
  <FaultNote v-if="page.error.value && !page.data.value" :error="page.error.value" again @again="page.refetch()" />
  <template v-if="page.data.value">
    <CourseHead :course="page.data.value" staff />
    <p class="choose">
      <ChoiceList v-model="chosen" :label="t('sight.whose')" :options="options" />
    </p>
    <section class="eyes" :aria-label="t('sight.title')">
      <p class="band" role="status">
        {{ t('sight.band', { course: code, name }) }}
        <router-link :to="{ name: 'playlist', params: { course } }">{{ t('sight.leave') }}</router-link>
      </p>
      <FaultNote
        v-if="sight.error.value && !sight.data.value"
        :error="sight.error.value"
        again
        @again="sight.refetch()"
      />
      <template v-if="recording">
        <router-link class="back" :to="{ query: query() }">{{ t('sight.back', { course: code }) }}</router-link>
        <SightRecording :key="recording" :course="course" :recording="recording" :eyes="eyes" />
      </template>
      <template v-else-if="sight.data.value">
        <p v-if="!sight.data.value.lists.some((l) => l.entries.some((e) => e.recording_id || e.file))" class="soft">
          {{ t('sight.empty') }}
        </p>
        <template v-for="l in sight.data.value.lists" v-else :key="l.id">
          <h2 v-if="l.title">{{ l.title }}</h2>
          <p v-if="l.about">{{ l.about }}</p>
          <ol class="plain">
            <template v-for="({ head, entry: e }, n) in underWeeks(l)" :key="e.recording_id ?? `h${n}`">
              <li v-if="head" class="heading">{{ t('sheet.week', { n: head }) }}</li>
              <li v-if="e.heading" class="heading">
                {{ e.heading }} <span v-if="e.about" class="below">{{ e.about }}</span>
              </li>
              <li v-else-if="e.address" class="elsewhere">
                <a :href="e.address" target="_blank" rel="noopener noreferrer">{{ e.title }}</a>
              </li>
              <li v-else-if="e.file" class="elsewhere">
                <a :href="handoutAt(course, e.file.id)" download>{{ e.title }}</a>
                <span class="soft small"> {{ bytesText(e.file.bytes) }}</span>
              </li>
              <SightEntry
                v-else
                :course="{ id: course, code }"
                :entry="e"
                :eyes="eyes"
                :zone="sight.data.value.zone"
                :to="{ query: query(e.recording_id) }"
                @mended="sight.refetch()"
              />
            </template>
          </ol>
        </template>
      </template>
    </section>
  </template>
</template>

<style scoped>
.choose {
  margin: 0 0 12px;
}

.eyes {
  max-width: 980px;
  padding: 0 20px 16px;
  border: 2px solid var(--kelp);
  border-radius: 4px;
  background: var(--shell);
}

.band {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 18px;
  justify-content: space-between;
  margin: 0 -20px 12px;
  padding: 10px 20px;
  background: var(--kelp-soft);
}

.heading {
  padding: 16px 0 4px;
  font: 600 16px var(--serif);
}

h2 {
  margin-top: 24px;
}

.below {
  display: block;
  font: 15px/1.4 var(--sans);
}

.elsewhere {
  padding: 10px 0 10px 78px;
  border-bottom: 1px solid var(--rule);
}

.back {
  display: inline-block;
  margin-bottom: 8px;
}
</style>
