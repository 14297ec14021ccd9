<script setup lang="ts">
/** The questions of a course that wait for an answer, whenever they were asked, so that none is lost. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, watchEffect } from 'vue'
import { useI18n } from 'vue-i18n'
import { useQuestions } from '../../api/chat'
import { keys } from '../../api/queries'
import { useCourse } from '../../api/timetable'
import FaultNote from '../../parts/FaultNote.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { dateText, timecode } from '../../parts/time'
import { nameTab } from '../../router'
import ChatLine from '../common/chat/ChatLine.vue'
import CourseHead from '../common/CourseHead.vue'
import { useChatActs } from '../common/chat/acts'

const props = defineProps<{ course: string }>()
const { t } = useI18n()
const client = useQueryClient()
const page = useCourse(() => props.course)
const questions = useQuestions(() => props.course)
const all = computed(() => questions.data.value?.questions ?? [])
const zone = computed(() => questions.data.value?.zone ?? 'UTC')
const { act, fault, last } = useChatActs(
  (line) => all.value.find((q) => q.id === line.id)?.lecture ?? '',
  () => void client.invalidateQueries({ queryKey: keys.questions(props.course) }),
)
watchEffect(() => nameTab(page.data.value ? `${t('questions_page.name')} · ${page.data.value.code}` : ''))
</script>

<template>
  <FaultNote
    v-if="questions.error.value && !questions.data.value"
    :error="questions.error.value"
    again
    @again="questions.refetch()"
  />
  <CourseHead v-if="page.data.value" :course="page.data.value" :staff="page.data.value.staff" />
  <section v-if="questions.data.value" class="waiting">
    <p role="status">
      {{ all.length === 0 ? t('questions_page.none') : t('questions_page.count', { n: all.length }, all.length) }}
    </p>
    <UndoLine v-if="last" :key="last.key" :text="last.text" :undo="last.undo" />
    <FaultNote v-if="fault" :error="fault" />
    <ol class="plain">
      <li v-for="q in all" :key="q.id">
        <p class="of small">
          <router-link :to="{ name: 'lecture', params: { lecture: q.lecture } }">{{
            q.topic || dateText(q.starts_at, zone)
          }}</router-link>
          <span v-if="q.topic" class="soft">{{ dateText(q.starts_at, zone) }}</span>
          <router-link
            v-if="q.recording && q.at !== undefined"
            :to="{ name: 'watch', params: { recording: q.recording }, query: { at: q.at } }"
            >{{ t('questions_page.go', { at: timecode(q.at) }) }}</router-link
          >
        </p>
        <ChatLine :line="q" :zone="zone" teaches @act="act" />
      </li>
    </ol>
  </section>
</template>

<style scoped>
.waiting {
  max-width: 760px;
}

li {
  padding: 8px 0;
  border-top: 1px solid var(--rule);
}

.of {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  margin: 0 0 2px;
  padding-inline-start: 15px;
}
</style>
