<script setup lang="ts">
/** Puts the recordings that are chosen into a playlist of a course that one teaches. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import type { Row } from '../../api/all'
import { useMe } from '../../api/me'
import { changePlaylist, usePlaylist } from '../../api/playlists'
import { useCourses } from '../../api/timetable'
import ChoiceList from '../../parts/ChoiceList.vue'
import FaultNote from '../../parts/FaultNote.vue'
import PageSheet from '../../parts/PageSheet.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'
import { taught } from '../common/choices'

const props = defineProps<{ recordings: Row[]; /** The course of the first of them. */ from: string }>()
const emit = defineEmits<{ close: [] }>()
const { t } = useI18n()
const me = useMe()
const client = useQueryClient()
const { busy, problem, send } = useForm()
const all = useCourses()
const courses = computed(() => taught(all.data.value?.courses ?? [], me.data.value))
const course = ref('')
const list = ref('')
watch(courses, (now) => (course.value ||= (now.find((c) => c.value === props.from) ?? now[0])?.value ?? ''), {
  immediate: true,
})
watch(course, () => (list.value = ''))
const of = computed(() => ({ course: course.value, list: list.value || undefined }))
const page = usePlaylist(of)
/** Those that belong to the course; what it shows of others is put together there. */
const lists = computed(() =>
  (page.data.value?.lists ?? [])
    .filter((l) => l.mine)
    .map((l) => ({ value: l.main ? '' : (l.id ?? ''), text: l.main ? t('all.main') : l.title })),
)
const there = computed(() => new Set(page.data.value?.entries.map((e) => e.recording_id)))
const fresh = computed(() => props.recordings.map((r) => r.recording_id).filter((id) => !there.value.has(id)))
const already = computed(() => props.recordings.length - fresh.value.length)
const done = ref<{ n: number; of: typeof of.value; entries: string[] }>()

async function put() {
  const into = of.value
  const before = new Set(page.data.value?.entries.map((e) => e.id))
  const recordings = fresh.value
  const now = await send(() => changePlaylist(into, { do: 'add', recordings }))
  if (!now) return
  const entries = now.entries
    .filter((e) => !before.has(e.id) && e.recording_id && recordings.includes(e.recording_id))
    .map((e) => e.id)
  done.value = { n: entries.length, of: into, entries }
  void client.invalidateQueries()
}

async function back() {
  await changePlaylist(done.value!.of, { do: 'remove', entries: done.value!.entries })
  void client.invalidateQueries()
}
</script>

<template>
  <PageSheet open :title="t('all.playlist')" @close="emit('close')">
    <p><ChoiceList v-model="course" :label="t('all.of_course')" :options="courses" /></p>
    <p v-if="lists.length > 1"><ChoiceList v-model="list" :label="t('all.which')" :options="lists" /></p>
    <FaultNote v-if="page.error.value" :error="page.error.value" again @again="page.refetch()" />
    <template v-if="page.data.value && !done">
      <p v-if="fresh.length === 0" class="soft">{{ t('all.put_none') }}</p>
      <p v-else-if="already > 0" class="soft">{{ t('all.already', { n: already }, already) }}</p>
    </template>
    <FaultNote v-if="problem" :error="problem" />
    <UndoLine
      v-if="done"
      :key="done.entries.join()"
      :text="t('all.put_done', { n: done.n }, done.n)"
      :undo="back"
      @undone="done = undefined"
    />
    <div class="bar-of-acts">
      <el-button type="primary" :disabled="busy || !page.data.value || fresh.length === 0" @click="put">{{
        t('all.put', { n: fresh.length }, fresh.length)
      }}</el-button>
      <router-link v-if="course" :to="{ name: 'playlist', params: { course }, query: list ? { list } : {} }">{{
        t('all.open_list')
      }}</router-link>
    </div>
  </PageSheet>
</template>
