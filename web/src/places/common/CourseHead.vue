<script setup lang="ts">
/** The head of every page of a course: which course it is, and its places, of which one is here. */
import { useI18n } from 'vue-i18n'

defineProps<{
  course: { id: string; code: string; title: string }
  /** Who looks teaches it, or coordinates the college. */
  staff: boolean
}>()
const { t } = useI18n()
const places = {
  course: 'lectures',
  playlist: 'playlist',
  rule: 'rule',
  'course-people': 'people',
  sight: 'sight',
  'course-questions': 'questions',
  'course-to-all': 'to_all',
  'course-register': 'register',
} as const
const more = { 'course-words': 'words', 'course-setting': 'setting' } as const
</script>

<template>
  <header class="course-head">
    <h1>{{ course.code }} {{ course.title }}</h1>
    <nav v-if="staff" :aria-label="t('course.places')">
      <router-link
        v-for="(key, name) in { ...places, ...more }"
        :key="name"
        :to="{ name, params: { course: course.id } }"
        >{{ t(`course.at.${key}`) }}</router-link
      >
    </nav>
  </header>
</template>

<style scoped>
.course-head {
  margin-bottom: 18px;
}

nav {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 22px;
  margin-top: 6px;
  border-bottom: 1px solid var(--rule-strong);
}

a {
  padding: 6px 0;
  border-bottom: 3px solid transparent;
  color: var(--ink-2);
  text-decoration: none;
}

a:hover {
  color: var(--ink);
}

a.router-link-exact-active {
  border-color: var(--kelp);
  color: var(--ink);
}
</style>
