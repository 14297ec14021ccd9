<script setup lang="ts">
/** The rule that holds for a recording as a course has it: its sentence, whose it is, and where it is changed. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRule } from '../../api/rules'
import { useRightWords } from './ruleWords'

const props = defineProps<{ course: string; recording: string }>()
const { t } = useI18n()
const page = useRule(() => ({ course: props.course, recording: props.recording }))
const words = useRightWords(() => page.data.value?.zone ?? 'UTC')
const text = computed(() => {
  const p = page.data.value
  if (!p) return ''
  return p.set || p.whence ? words.sentence(p.rule, p.course.code) : t('rule.text_none')
})
const whose = computed(() => {
  const p = page.data.value
  if (!p || (!p.set && !p.whence)) return ''
  if (p.set) return t('rule.text_own')
  return t(p.whence === 'college' ? 'rule.text_college' : 'rule.text_course', { course: p.course.code })
})
</script>

<template>
  <p v-if="text" class="text small">
    {{ text }}
    <span v-if="whose" class="soft">{{ whose }}</span>
    {{ ' ' }}
    <router-link :to="{ name: 'rule', params: { course }, query: { for: recording } }">{{
      t('next.rule')
    }}</router-link>
  </p>
</template>

<style scoped>
.text {
  margin: 8px 0 14px;
  line-height: 1.5;
}

.text a {
  white-space: nowrap;
}
</style>
