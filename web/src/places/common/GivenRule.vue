<script setup lang="ts">
/** Which rule recordings are to have in courses: the one they have, that of the course, or one of their own. */
import { computed, watch } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRule, type Rule } from '../../api/rules'
import RuleSentence from './RuleSentence.vue'
import RuleWho from './RuleWho.vue'
import { useRightWords } from './ruleWords'

export type Ruling = 'stays' | 'course' | 'own'
const ruling = defineModel<Ruling>('ruling', { required: true })
const rule = defineModel<Rule>('rule')
const props = defineProps<{
  /** A recording as a course has it: with its rule a new one begins. */
  begins: { course: string; recording: string }
  /** The course, when it is one alone. */
  code: string
  groups: string[]
  zone: string
}>()
const { t } = useI18n()
const words = useRightWords(() => props.zone)
const held = useRule(() => props.begins)
const course = computed(() => props.code || t('lighting.each'))
watch([ruling, () => held.data.value], ([is, page]) => {
  if (is === 'own' && page) rule.value ??= { ...page.rule, groups: [...page.rule.groups] }
})
</script>

<template>
  <el-segmented
    v-model="ruling"
    :aria-label="t('next.rule')"
    :options="[
      { value: 'stays', label: t('lighting.rule_stays') },
      { value: 'course', label: t('lighting.rule_course') },
      { value: 'own', label: t('lighting.rule_own') },
    ]"
  />
  <RuleSentence
    v-if="ruling === 'own' && rule"
    class="own"
    :model-value="rule"
    :who="words.who(rule, course)"
    :zone="zone"
    @update:model-value="(r) => (rule = { ...rule!, ...r })"
  >
    <RuleWho v-model="rule" :course="course" :groups="groups" />
  </RuleSentence>
</template>

<style scoped>
.own :deep(.sentence),
.own :deep(.sentence button) {
  font-size: 18px;
}
</style>
