<script setup lang="ts">
/** The viewing rule of a course; and, for whoever comes from a recording, that of the recording alone. */
import { computed, ref, useTemplateRef, watchEffect } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'
import { useRule } from '../../api/rules'
import { useCourse } from '../../api/timetable'
import FaultNote from '../../parts/FaultNote.vue'
import { nameTab } from '../../router'
import CourseHead from '../common/CourseHead.vue'
import HistoryPart from './HistoryPart.vue'
import OpeningsPart from '../common/openings/OpeningsPart.vue'
import RuleHeld from './RuleHeld.vue'

const props = defineProps<{ course: string }>()
const { t } = useI18n()
const route = useRoute()
const page = useCourse(() => props.course)
const from = computed(() => (typeof route.query.for === 'string' ? route.query.for : ''))
const single = useRule(() => ({ course: props.course, recording: from.value }))
/** What was chosen; until then the recording alone, if it has a rule of its own. */
const chosen = ref<boolean>()
const alone = computed({
  get: () => chosen.value ?? (from.value !== '' && !!single.data.value?.set),
  set: (yes) => (chosen.value = yes),
})
const held = useTemplateRef<InstanceType<typeof RuleHeld>>('held')
const scope = computed(() => ({ course: props.course, recording: alone.value ? from.value : undefined }))
watchEffect(() => nameTab(page.data.value ? t('rule.of', { course: page.data.value.code }) : ''))
</script>

<template>
  <FaultNote v-if="page.error.value && !page.data.value" :error="page.error.value" again @again="page.refetch()" />
  <CourseHead v-if="page.data.value" :course="page.data.value" staff />
  <FaultNote
    v-if="single.error.value && !single.data.value"
    :error="single.error.value"
    again
    @again="single.refetch()"
  />
  <el-segmented
    v-if="from && page.data.value && single.data.value"
    v-model="alone"
    class="scope"
    :aria-label="t('rule.scope')"
    :options="[
      { value: false, label: t('rule.for_all', { course: page.data.value.code }) },
      {
        value: true,
        label: single.data.value.title ? t('rule.for_one', { title: single.data.value.title }) : t('rule.for_this'),
      },
    ]"
  />
  <RuleHeld v-if="single.data.value" ref="held" :key="scope.recording ?? ''" :scope="scope" :back="from" />
  <OpeningsPart v-if="from && single.data.value" :course="course" :of="{ recording: from }" />
  <HistoryPart
    v-if="page.data.value && single.data.value"
    :key="`past ${scope.recording}`"
    :scope="scope"
    :code="page.data.value.code"
    @again="(rule) => held?.propose(rule)"
  />
</template>

<style scoped>
.scope {
  margin-bottom: 14px;
}
</style>
