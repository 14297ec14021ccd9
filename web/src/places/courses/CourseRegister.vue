<script setup lang="ts">
/** Who was there in the lectures of a course: for those who teach it all of them, for a student their own line. */
import { computed, watchEffect } from 'vue'
import { useI18n } from 'vue-i18n'
import { useCourse } from '../../api/timetable'
import FaultNote from '../../parts/FaultNote.vue'
import { nameTab } from '../../router'
import CourseHead from '../common/CourseHead.vue'
import OwnRegister from './OwnRegister.vue'
import TermRegister from './TermRegister.vue'

const props = defineProps<{ course: string }>()
const { t } = useI18n()
const page = useCourse(() => props.course)
const it = computed(() => page.data.value)
watchEffect(() => nameTab(it.value ? `${t('register.name')} · ${it.value.code}` : ''))
</script>

<template>
  <FaultNote v-if="page.error.value && !it" :error="page.error.value" again @again="page.refetch()" />
  <template v-if="it">
    <CourseHead :course="it" :staff="it.staff" />
    <TermRegister v-if="it.staff" :course="course" />
    <OwnRegister v-else :course="course" />
  </template>
</template>
