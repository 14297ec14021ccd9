<script setup lang="ts">
/** Recordings that are not in a playlist and could be: of its course, or of another that one teaches. */
import { computed, ref } from 'vue'
import { useI18n } from 'vue-i18n'
import { useMe } from '../../api/me'
import { useAddable, type ListOf, type PlaylistPage } from '../../api/playlists'
import { useCourses } from '../../api/timetable'
import ChoiceList from '../../parts/ChoiceList.vue'
import FaultNote from '../../parts/FaultNote.vue'
import { taught } from '../common/choices'

const props = defineProps<{ page: PlaylistPage; list: ListOf }>()
const emit = defineEmits<{ add: [recordings: string[]] }>()
const { t } = useI18n()
const me = useMe()
const courses = useCourses()
const from = ref(props.page.course.id)
const own = computed(() => from.value === props.page.course.id)
const others = useAddable(
  () => props.list,
  () => (own.value ? '' : from.value),
)
const recordings = computed(() => (own.value ? props.page.waiting : (others.data.value?.recordings ?? [])))
/** What it waits for; of a place in a playlist is said by the press. */
const step = (w: { next: string }) => (w.next === 'playlist' ? '' : w.next || (props.page.list.main ? 'wait' : ''))
const options = computed(() => taught(courses.data.value?.courses ?? [], me.data.value))
</script>

<template>
  <div v-if="page.list.main ? recordings.length > 0 : true" class="page waiting">
    <h2>{{ t('playlist.waiting') }}</h2>
    <p v-if="!page.list.main" class="from">
      <ChoiceList v-model="from" :label="t('playlist.recordings_of')" :options="options" />
      <el-button
        v-if="recordings.length > 1"
        link
        @click="
          emit(
            'add',
            recordings.map((r) => r.recording_id),
          )
        "
        >{{ t('playlist.add_all', { n: recordings.length }) }}</el-button
      >
    </p>
    <FaultNote v-if="others.error.value" :error="others.error.value" again @again="others.refetch()" />
    <p v-else-if="recordings.length === 0" class="soft">{{ t('playlist.nothing_to_add') }}</p>
    <ul class="plain">
      <li v-for="w in recordings" :key="w.recording_id">
        <span class="week soft">{{ w.week ? t('sheet.week', { n: w.week }) : '' }}</span>
        <router-link :to="{ name: 'trim-bench', params: { recording: w.recording_id } }">{{ w.title }}</router-link>
        <span v-if="step(w)" class="soft">{{ t('board.next', { step: t(`step.${step(w)}`) }) }}</span>
        <el-button :aria-label="t('playlist.add_it', { title: w.title })" @click="emit('add', [w.recording_id])">
          {{ t('playlist.add') }}
        </el-button>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.waiting {
  margin-top: 18px;
}

.from {
  display: flex;
  flex-wrap: wrap;
  gap: 8px 20px;
  align-items: center;
  margin-top: 10px;
}

.waiting li {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  align-items: center;
  padding: 8px 0;
}

.waiting li .el-button {
  margin-inline-start: auto;
}
</style>
