<script setup lang="ts">
/** The words of a course: its glossary, its language, and whether captions are drafted by themselves. */
import { useQueryClient } from '@tanstack/vue-query'
import { computed, ref, watch, watchEffect } from 'vue'
import { useI18n } from 'vue-i18n'
import { setCourseWords, useCourseWords } from '../../api/captions'
import { keys } from '../../api/queries'
import { useCourse } from '../../api/timetable'
import FaultNote from '../../parts/FaultNote.vue'
import { nameTab } from '../../router'
import CourseHead from '../common/CourseHead.vue'

const props = defineProps<{ course: string }>()
const { t } = useI18n()
const client = useQueryClient()
const words = useCourseWords(() => props.course)
const page = useCourse(() => props.course)
const name = computed(() => (page.data.value ? `${page.data.value.code} ${page.data.value.title}` : ''))
const glossary = ref('')
const language = ref('en')
const drafts = ref(true)
const kept = ref('')
const fault = ref<unknown>()

watch(
  () => words.data.value,
  (w, was) => {
    if (!w) return
    if (!was || glossary.value === was.glossary) glossary.value = w.glossary
    if (!was || language.value === was.language) language.value = w.language
    drafts.value = w.drafts
  },
  { immediate: true },
)
watchEffect(() => nameTab(name.value && `${t('course_words.name')} · ${name.value}`))

async function keep() {
  fault.value = undefined
  kept.value = ''
  try {
    const w = await setCourseWords(props.course, {
      glossary: glossary.value,
      language: language.value.trim(),
      drafts: drafts.value,
    })
    client.setQueryData(keys.courseWords(props.course), w)
    kept.value = t('course_words.kept')
  } catch (e) {
    fault.value = e
  }
}
</script>

<template>
  <FaultNote v-if="words.error.value && !words.data.value" :error="words.error.value" again @again="words.refetch()" />
  <CourseHead v-if="page.data.value" :course="page.data.value" :staff="page.data.value.staff" />
  <section v-if="words.data.value" class="page">
    <div class="field">
      <label for="glossary">{{ t('course_words.glossary') }}</label>
      <p id="glossary-hint" class="soft small">{{ t('course_words.help') }}</p>
      <el-input
        id="glossary"
        v-model="glossary"
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
      <el-input id="course-language" v-model="language" class="short" maxlength="35" @change="keep" />
    </div>
    <el-checkbox v-model="drafts" class="field" @change="keep"
      >{{ t('course_words.drafts') }}
      <span class="soft small help">{{ t('course_words.drafts_help') }}</span></el-checkbox
    >
    <p v-if="!words.data.value.captioner" class="soft">{{ t('course_words.no_captioner') }}</p>
    <p role="status">{{ kept }}</p>
    <FaultNote v-if="fault" :error="fault" />
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
