<script setup lang="ts">
/** The course that is to be seen through the eyes of one of its students. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRouter } from 'vue-router'
import { useMe } from '../../api/me'
import { useCourses } from '../../api/timetable'
import ChoiceList from '../../parts/ChoiceList.vue'
import FaultNote from '../../parts/FaultNote.vue'
import { nameTab } from '../../router'
import { taught } from '../common/choices'

const { t } = useI18n()
const router = useRouter()
const me = useMe()
const all = useCourses()
const options = computed(() => taught(all.data.value?.courses ?? [], me.data.value))
const course = computed({
  get: () => '',
  set: (id) => void (id && router.push({ name: 'sight', params: { course: id } })),
})
nameTab(t('sight.title'))
</script>

<template>
  <section class="page choose">
    <h1>{{ t('sight.title') }}</h1>
    <p>{{ t('sight.choose') }}</p>
    <FaultNote v-if="all.error.value && !all.data.value" :error="all.error.value" again @again="all.refetch()" />
    <p v-else-if="all.data.value && options.length === 0" class="soft">{{ t('sight.no_course') }}</p>
    <ChoiceList v-else v-model="course" :label="t('sight.course')" :options="options" />
  </section>
</template>

<style scoped>
.choose {
  max-width: 640px;
}
</style>
