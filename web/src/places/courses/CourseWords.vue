<script setup lang="ts">
/** The words of a course: its glossary, its language, and whether captions are drafted by themselves. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, watchEffect } from 'vue'
import { useI18n } from 'vue-i18n'
import { setCourseWords, useCourseWords } from '../../api/captions'
import { keys } from '../../api/queries'
import { useCourse } from '../../api/timetable'
import FaultNote from '../../parts/FaultNote.vue'
import UndoLine from '../../parts/UndoLine.vue'
import { useForm } from '../../parts/form'
import { nameTab } from '../../router'
import CourseHead from '../common/CourseHead.vue'

const props = defineProps<{ course: string }>()
const { t } = useI18n()
const client = useQueryClient()
const words = useCourseWords(() => props.course)
const page = useCourse(() => props.course)
const name = computed(() => (page.data.value ? `${page.data.value.code} ${page.data.value.title}` : ''))
const form = useForm(() => {
  const w = words.data.value
  return w && { glossary: w.glossary, language: w.language, drafts: w.drafts }
})
const { draft, problem, done } = form
watchEffect(() => nameTab(name.value && `${t('course_words.name')} · ${name.value}`))

type Words = NonNullable<typeof draft.value>
async function write(d: Words) {
  const w = await setCourseWords(props.course, { ...d, language: d.language.trim() })
  client.setQueryData(keys.courseWords(props.course), w)
}
const keep = () => form.keep(write, t('course_words.kept'))
</script>

<template>
  <FaultNote v-if="words.error.value && !words.data.value" :error="words.error.value" again @again="words.refetch()" />
  <CourseHead v-if="page.data.value" :course="page.data.value" :staff="page.data.value.staff" />
  <section v-if="words.data.value && draft" class="page">
    <div class="field">
      <label for="glossary">{{ t('course_words.glossary') }}</label>
      <p id="glossary-hint" class="soft small">{{ t('course_words.help') }}</p>
      <el-input
        id="glossary"
        v-model="draft.glossary"
        type="textarea"
        :rows="14"
        maxlength="100000"
        aria-describedby="glossary-hint"
        @change="keep"
      />
      <p class="soft small">
        {{ t('course_words.terms', { n: words.data.value.terms ?? 0 }, words.data.value.terms ?? 0) }}
      </p>
    </div>
    <div class="field">
      <label for="course-language">{{ t('course_words.language') }}</label>
      <el-input id="course-language" v-model="draft.language" class="short" maxlength="35" @change="keep" />
    </div>
    <el-checkbox v-model="draft.drafts" class="field" @change="keep"
      >{{ t('course_words.drafts') }}
      <span class="soft small help">{{ t('course_words.drafts_help') }}</span></el-checkbox
    >
    <p v-if="!words.data.value.captioner" class="soft">{{ t('course_words.no_captioner') }}</p>
    <UndoLine v-if="done" v-bind="done" :key="done.key" />
    <FaultNote v-if="problem" :error="problem" />
  </section>
</template>

<style scoped>
.page {
  max-width: 760px;
}

.help {
  display: block;
  margin-inline-start: 22px;
}
</style>
